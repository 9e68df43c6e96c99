"""Simulated devices that are asked over HTTP, as processes of their own would be."""

import socket
import threading
import time
from contextlib import contextmanager

import uvicorn

from ulvet.standins.printer import create_printer
from ulvet.standins.shop import create_shop

__all__ = ["running_printer", "running_shop"]


@contextmanager
def running_printer(seed=2, speed=1e9):
    """The address of a printer, while it runs."""
    with _running(create_printer(speed, seed)) as address:
        yield address


@contextmanager
def running_shop(folder, seed=0):
    """The address of a shop that keeps what it has in a folder, while it runs."""
    with _running(create_shop(folder, seed)) as address:
        yield address


@contextmanager
def _running(app):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(timeout=20)
