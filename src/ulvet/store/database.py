"""The SQLite database: opened with care, migrated on opening."""

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

__all__ = ["migrate", "open_database"]

_BUSY_MS = 10_000


def open_database(path: Path) -> sessionmaker[Session]:
    """Sessions on a migrated database. Every transaction begins as a writer, so none fails half-way for a lock."""
    migrate(path)
    return sessionmaker(_engine(path), expire_on_commit=False)


def migrate(path: Path) -> None:
    """Bring the database to the newest revision; makes it when it is not there."""
    config = Config()
    config.set_main_option("script_location", "ulvet:store/migrations")
    config.attributes["engine"] = engine = _engine(path)
    try:
        command.upgrade(config, "head")
    finally:
        engine.dispose()


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
        connection.exec_driver_sql("BEGIN IMMEDIATE")

    return engine
