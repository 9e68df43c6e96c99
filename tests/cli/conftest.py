"""The command, asked in this process."""

from typer.testing import CliRunner

from ulvet.cli import app


def asked(*given):
    return CliRunner().invoke(app, [str(word) for word in given])
