"""The ``ulvet`` command, as ``python -m ulvet``."""

from ulvet.cli import app

app()
