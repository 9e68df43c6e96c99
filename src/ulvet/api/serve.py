"""Serving the studio on this machine."""

import socket
from pathlib import Path

import typer
import uvicorn

from ulvet.api.app import create_app
from ulvet.store.folder import DataFolder, FolderInUse, default_data_folder

__all__ = ["serve"]


def serve(port: int, data: Path | None) -> None:
    """Serve until Ctrl-C, bound to this machine only.

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
    typer.echo(f"Ulvet is at http://127.0.0.1:{port}  (figures in {folder}; Ctrl-C stops it)")
    uvicorn.run(
        create_app(folder),
        host="127.0.0.1",
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=3,
    )
