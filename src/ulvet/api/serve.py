"""Serving the studio on this machine."""

import socket
import subprocess
import sys
import time
from pathlib import Path
from threading import Thread

import typer
import uvicorn

from ulvet.api.app import create_app
from ulvet.store.folder import DataFolder, FolderInUse, default_data_folder

__all__ = ["serve"]

_LOOKS_AGAIN_S = 0.1
"""Seconds between two looks at whether the server answers."""


def serve(port: int, data: Path | None, demo: bool = False) -> None:
    """Serve until Ctrl-C, bound to this machine only; ``demo`` has the demo figures made and sent in meanwhile.

    Raises typer.Exit with code 2 when the port is taken or another Ulvet works in the data folder.
    """
    folder = data or default_data_folder()
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            typer.echo(f"Port {port} is taken by another program: give another, as in PORT=8322.", err=True)
            raise typer.Exit(2) from error
    try:
        with DataFolder(folder).lock():
            pass
    except FolderInUse as error:
        typer.echo(str(error), err=True)
        raise typer.Exit(2) from error
    address = f"http://127.0.0.1:{port}"
    server = uvicorn.Server(
        uvicorn.Config(
            create_app(folder), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=3
        )
    )
    thread = Thread(target=_when_it_answers, args=(server, address, folder, demo), daemon=True)
    thread.start()
    server.run()


def _when_it_answers(server: uvicorn.Server, address: str, folder: Path, demo: bool) -> None:
    """Say where the studio is, and have the demo figures sent in by a program of their own, which ends with it."""
    while not server.started:
        time.sleep(_LOOKS_AGAIN_S)
    typer.echo(f"Ulvet is at {address}  (figures in {folder}; Ctrl-C stops it)")
    if not demo:
        return
    sending = subprocess.Popen([sys.executable, "-m", "ulvet", "demo", "--at", address])
    while sending.poll() is None:
        if server.should_exit:
            sending.terminate()
        time.sleep(_LOOKS_AGAIN_S)
