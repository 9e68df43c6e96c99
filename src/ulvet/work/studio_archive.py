"""A whole studio as one archive, out of one data folder and into an empty one.

The archive is a ZIP: ``manifest.json`` with the hash of every other file, ``studio.json`` with the rows of every table,
and the blobs that these name. What can be made again from those is not in it.
"""

import hashlib
import json
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any, Final

from ulvet.store.blobs import Blobs
from ulvet.store.database import migrate, newest_schema, open_database
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import all_rows, blobs_of_row

__all__ = ["ARCHIVE_VERSION", "UnusableArchive", "load_studio", "save_studio"]

ARCHIVE_VERSION: Final = 1
"""Version of the archive's form, written into it."""
_MANIFEST, _ROWS, _BLOBS = "manifest.json", "studio.json", "blobs/"
_SCHEMA_TABLE = "alembic_version"


class UnusableArchive(ValueError):
    """An archive that cannot be loaded; its text is for the user."""


def save_studio(folder: DataFolder, out: Path) -> int:
    """Write the studio in a folder, which nothing else may use meanwhile, to an archive; the number of its files.

    Raises OSError where the archive cannot be written.
    """
    blobs = Blobs(folder.blobs)
    with open_database(folder.database)() as session:
        needed = sorted({name for row in all_rows(session) for name in blobs_of_row(row) if blobs.holds(name)})
    rows = json.dumps(_rows_of(folder.database), ensure_ascii=False).encode()
    files = {_ROWS: hashlib.sha256(rows).hexdigest(), **{f"{_BLOBS}{name}": name for name in needed}}
    manifest = {"ulvet_studio": ARCHIVE_VERSION, "schema": newest_schema(), "files": files}
    with tempfile.NamedTemporaryFile(dir=out.parent, prefix=".new-", delete=False) as held:
        path = Path(held.name)
    try:
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            archive.writestr(_MANIFEST, json.dumps(manifest, indent=1))
            archive.writestr(_ROWS, rows)
            for name in needed:
                archive.write(blobs.path(name), f"{_BLOBS}{name}")
        path.replace(out)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return len(files)


def load_studio(file: Path, folder: DataFolder) -> int:
    """Bring the studio in an archive into an empty folder; the number of its files. Nothing is there before all of it
    is.

    Raises UnusableArchive for a folder with a studio in it, and for an archive that is cut off, altered or of a later
    version.
    """
    if folder.database.exists():
        raise UnusableArchive(f"{folder.root} holds a studio already, and nothing was changed: name an empty folder.")
    try:
        with zipfile.ZipFile(file) as archive:
            manifest = _manifest_in(archive, file)
            blobs = Blobs(folder.blobs)
            rows = b""
            for name, digest in manifest["files"].items():
                data = archive.read(name)
                if hashlib.sha256(data).hexdigest() != digest:
                    raise UnusableArchive(f"{file.name} was altered at {name}, and nothing of it was used.")
                if name == _ROWS:
                    rows = data
                else:
                    blobs.put(data)
    except (zipfile.BadZipFile, zlib.error, EOFError, KeyError, NotImplementedError, RuntimeError) as error:
        raise UnusableArchive(
            f"{file.name} is cut off or is no archive of a studio, and nothing of it was used: copy it again."
        ) from error
    making = folder.root / ".loading.sqlite"
    making.unlink(missing_ok=True)
    migrate(making, manifest["schema"])
    _fill(making, json.loads(rows))
    migrate(making)
    making.replace(folder.database)
    return len(manifest["files"])


def _manifest_in(archive: zipfile.ZipFile, file: Path) -> dict[str, Any]:
    """The manifest of an archive that holds just what it names.

    Raises UnusableArchive, KeyError where there is none.
    """
    try:
        manifest = json.loads(archive.read(_MANIFEST))
        version, schema, files = manifest["ulvet_studio"], manifest["schema"], manifest["files"]
        there = {name for name in archive.namelist() if name != _MANIFEST}
        whole = there == set(files) and _ROWS in files and isinstance(schema, str)
    except (ValueError, TypeError, KeyError) as error:
        raise UnusableArchive(f"{file.name} is no archive of a studio: save one with “ulvet save”.") from error
    if version != ARCHIVE_VERSION or schema > newest_schema():
        raise UnusableArchive(f"{file.name} was saved by a newer Ulvet: load it with that one. Nothing was changed.")
    if not whole:
        raise UnusableArchive(f"{file.name} does not hold what its manifest names, and nothing of it was used.")
    return manifest


def _rows_of(database: Path) -> dict[str, list[dict[str, Any]]]:
    """The rows of every table, as SQLite holds them."""
    with closing(sqlite3.connect(database)) as connection:
        connection.row_factory = sqlite3.Row
        return {
            table: [dict(row) for row in connection.execute(f'SELECT * FROM "{table}"')]
            for table in _tables(connection)
        }


def _fill(database: Path, held: dict[str, list[dict[str, Any]]]) -> None:
    """Put rows into a database that has its tables and nothing in them.

    Raises UnusableArchive where they do not fit.
    """
    with closing(sqlite3.connect(database)) as connection:
        known = set(_tables(connection))
        try:
            for table, rows in held.items():
                if table not in known:
                    raise UnusableArchive(
                        f"The archive holds {table}, which this Ulvet does not know: nothing was used."
                    )
                for row in rows:
                    columns = ", ".join(f'"{name}"' for name in row)
                    places = ", ".join("?" * len(row))
                    connection.execute(f'INSERT INTO "{table}" ({columns}) VALUES ({places})', tuple(row.values()))
        except sqlite3.Error as error:
            raise UnusableArchive("The archive's rows cannot be read, and nothing of it was used.") from error
        if connection.execute("PRAGMA foreign_key_check").fetchone():
            raise UnusableArchive("The archive's rows do not belong together, and nothing of it was used.")
        connection.commit()


def _tables(connection: sqlite3.Connection) -> Iterator[str]:
    found = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name").fetchall()
    return (name for (name,) in found if name != _SCHEMA_TABLE and not name.startswith("sqlite_"))
