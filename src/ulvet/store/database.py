"""The SQLite database: opened with care, migrated on opening."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

__all__ = ["Changed", "Sessions", "migrate", "newest_schema", "note_change", "open_database"]

_CHANGED = "changed"
_BUSY_MS = 10_000
"""Milliseconds that a writer waits for another."""


class Changed(NamedTuple):
    """What was changed: of which kind, its id, and the number of the revision it has now."""

    kind: str
    id: int
    revision: int


class Sessions:
    """Sessions on a database: to read, beside whoever writes; or to write, one after the other.

    One that is to write takes its lock when it begins, so that none fails half-way for a lock. ``heard`` is told what
    a session changed, as its ``changed`` says, once that is kept.
    """

    def __init__(self, engine: Engine) -> None:
        self.heard: Callable[[Changed], None] = lambda changed: None
        self._reading = sessionmaker(engine, expire_on_commit=False)
        self._writing = sessionmaker(engine.execution_options(writes=True), expire_on_commit=False)

    def __call__(self) -> Session:
        """A session that reads; it sees the database as it was when it first looked."""
        return self._reading()

    @contextmanager
    def begin(self) -> Iterator[Session]:
        """A session that writes, kept when it ends without an error."""
        with self._writing.begin() as session:
            yield session
        for changed in session.info.pop(_CHANGED, ()):
            self.heard(changed)


def note_change(session: Session, changed: Changed) -> None:
    """Have it told, once it is kept, that a session changed something."""
    session.info.setdefault(_CHANGED, []).append(changed)


def open_database(path: Path) -> Sessions:
    """Sessions on a database that is made, or brought to the newest revision, first."""
    migrate(path)
    return Sessions(_engine(path))


def newest_schema() -> str:
    """The name of the newest revision of the database."""
    return str(ScriptDirectory.from_config(_config()).get_current_head())


def migrate(path: Path, to: str = "head") -> None:
    """Bring the database to a revision, the newest where none is named; makes it when it is not there."""
    config = _config()
    config.attributes["engine"] = engine = _engine(path)
    try:
        command.upgrade(config, to)
    finally:
        engine.dispose()


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", "ulvet:store/migrations")
    return config


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": _BUSY_MS / 1000})

    @event.listens_for(engine, "connect")
    def _prepare(connection: Any, record: Any) -> None:
        # The driver's own transactions begin too late; ours begin below.
        connection.isolation_level = None
        for pragma in ("journal_mode=WAL", "foreign_keys=ON", f"busy_timeout={_BUSY_MS}"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        writes = connection.get_execution_options().get("writes")
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")

    return engine
