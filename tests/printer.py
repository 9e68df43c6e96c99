"""A simulated printer that is asked over HTTP, as a process of its own would be."""

import socket
import threading
import time
from contextlib import contextmanager

import uvicorn

from ulvet.standins.printer import create_printer

__all__ = ["running_printer"]


@contextmanager
def running_printer(seed=2, speed=1e9):
    """Its address, while it runs."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(create_printer(speed, seed), port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(timeout=20)
