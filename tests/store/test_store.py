import json
import sqlite3

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, inspect, select
from sqlalchemy.exc import IntegrityError

from tests.shapes import ball, box
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.mend.steps import CloseHolesReceipt
from ulvet.core.recipe.reading import read_recipe
from ulvet.core.recipe.receipt import Receipt
from ulvet.core.recipe.step import Part, StepResult
from ulvet.store.blobs import Blobs, MissingBlob, write_whole
from ulvet.store.columns import Base
from ulvet.store.database import migrate, open_database
from ulvet.store.folder import DataFolder
from ulvet.store.models import Figure, Revision, Source
from ulvet.store.results import DiskMemory
from ulvet.work.folder_check import check_folder


@pytest.fixture
def folder(tmp_path):
    return DataFolder(tmp_path / "data")


def test_a_blob_is_its_hash_and_is_written_once(folder):
    blobs = Blobs(folder.blobs)
    name = blobs.put(b"otter")
    before = blobs.path(name).stat().st_ino
    assert blobs.put(b"otter") == name
    assert blobs.path(name).stat().st_ino == before
    assert bytes(blobs.read(name)) == b"otter"
    # A figure that has no walls has no soundings.
    assert bytes(blobs.read(blobs.put(b""))) == b""


def test_a_mesh_blob_has_the_hash_of_its_mesh_and_is_read_without_copying(folder):
    blobs, mesh = Blobs(folder.blobs), ball(3)
    assert blobs.put_mesh(mesh) == mesh.hash
    read = blobs.mesh(mesh.hash)
    assert read.hash == mesh.hash
    assert not read.vertices.flags.owndata


@pytest.mark.parametrize("name", ["0" * 64, "../../etc/passwd", "", "A" * 64, "0" * 63])
def test_names_that_are_no_blob_are_missing_and_never_a_path(folder, name):
    with pytest.raises(MissingBlob):
        Blobs(folder.blobs).read(name)


def test_a_write_that_fails_leaves_nothing(folder, monkeypatch):
    target = folder.blobs / "x"
    monkeypatch.setattr("os.fsync", lambda handle: (_ for _ in ()).throw(OSError("disk full")))
    with pytest.raises(OSError, match="disk full"):
        write_whole(target, b"half")
    assert not list(folder.blobs.iterdir())


def test_a_result_is_recalled_whole_or_not_at_all(folder):
    memory = DiskMemory(folder)
    result = StepResult((Part("figure", box(1, 2, 3)),), CloseHolesReceipt(closed=2, surface_added=1.5))
    assert memory.recall("k", CloseHolesReceipt) is None
    memory.keep("k", result)
    again = memory.recall("k", CloseHolesReceipt)
    assert again.parts[0].mesh.hash == result.parts[0].mesh.hash
    assert again.receipt == result.receipt
    (folder.results / "k.json").write_text('{"parts": [["figure", "', "utf-8")
    assert memory.recall("k", CloseHolesReceipt) is None
    memory.keep("k", result)
    Blobs(folder.blobs).path(result.parts[0].mesh.hash).unlink()
    assert memory.recall("k", CloseHolesReceipt) is None


def test_the_migrated_database_is_the_one_the_models_describe(folder):
    migrate(folder.database)
    migrate(folder.database)  # again changes nothing
    sessions = open_database(folder.database)
    with sessions() as session:
        found = inspect(session.connection())
        for table in Base.metadata.tables.values():
            columns = {column["name"]: column for column in found.get_columns(table.name)}
            assert set(columns) == {column.name for column in table.columns}
            assert all(columns[c.name]["nullable"] == c.nullable for c in table.columns)


def test_the_database_keeps_its_promises(folder):
    sessions = open_database(folder.database)
    with sessions() as session:
        said = {
            name: session.connection().exec_driver_sql(f"PRAGMA {name}").scalar()
            for name in ("journal_mode", "foreign_keys", "busy_timeout")
        }
    assert said == {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 10_000}
    with pytest.raises(IntegrityError), sessions.begin() as session:
        session.add(Revision(figure_id=99, number=1, recipe={}, editions=[], says="of no figure"))


def test_a_transaction_that_fails_leaves_no_trace(folder):
    sessions = open_database(folder.database)
    with pytest.raises(RuntimeError), sessions.begin() as session:
        session.add(Figure(name="half"))
        session.flush()
        raise RuntimeError
    with sessions() as session:
        assert not session.scalars(select(Figure)).all()


def test_a_second_writer_waits_instead_of_failing(folder):
    sessions = open_database(folder.database)
    with sessions.begin() as session:
        session.add(Figure(name="first"))
        session.flush()
        other = sqlite3.connect(folder.database, timeout=0.1, isolation_level=None)
        with pytest.raises(sqlite3.OperationalError, match="locked"):
            other.execute("BEGIN IMMEDIATE")  # so it is held from the start, not from the first write on
        other.close()


def test_a_database_of_the_first_revision_is_carried_over_with_everything_in_it(folder):
    first = Config()
    first.set_main_option("script_location", "ulvet:store/migrations")
    first.attributes["engine"] = engine = create_engine(f"sqlite:///{folder.database}")
    command.upgrade(first, "0001")
    engine.dispose()
    old = sqlite3.connect(folder.database)
    now = "2026-01-02 03:04:05"
    brought_in = BringIn(source="m", name="toll.stl").model_dump(mode="json")
    thickened = {"kind": "thicken", "wall": 0.8, "places": [[1.0, 2.0, 3.0]], "reach": 2.0}
    old.execute("INSERT INTO figures (id, name, created) VALUES (1, 'Toll keeper', ?)", [now])
    old.execute(
        "INSERT INTO sources (id, figure_id, file_name, file_hash, file_bytes, mesh_hash, brought) "
        "VALUES (1, 1, 'toll.stl', 'f', 9, 'm', ?)",
        [now],
    )
    old.execute(
        "INSERT INTO revisions (id, figure_id, number, recipe, edition, says, created) "
        "VALUES (1, 1, 1, ?, '{}', 'brought in', ?)",
        [json.dumps({"steps": [brought_in, thickened]}), now],
    )
    old.execute("UPDATE figures SET head_id = 1")
    old.commit()
    old.close()
    with open_database(folder.database)() as session:
        (figure,) = session.scalars(select(Figure)).all()
        assert (figure.name, figure.head.says) == ("Toll keeper", "brought in")
        assert [(source.file_name, source.upload) for source in figure.sources] == [("toll.stl", None)]
        step = read_recipe(figure.head.recipe).steps[1]
        assert [anchor.point for anchor in step.places] == [(1.0, 2.0, 3.0)]
        assert not session.connection().exec_driver_sql("PRAGMA foreign_key_check").all()


def test_a_folder_is_checked_blob_by_blob_and_what_nothing_needs_can_be_removed(folder):
    blobs = Blobs(folder.blobs)
    needed = [blobs.put(word) for word in (b"file", b"mesh")]
    loose = blobs.put(b"a trial that was not kept")
    DiskMemory(folder).keep("k", StepResult((Part("figure", box(1, 1, 1)),)))
    with open_database(folder.database).begin() as session:
        source = Source(file_name="x.stl", file_hash=needed[0], file_bytes=4, mesh_hash=needed[1])
        session.add(Figure(name="One", sources=[source]))
    report = check_folder(folder)
    assert (report.whole, report.blobs, report.unneeded) == (True, 4, (loose,))
    blobs.path(needed[0]).write_bytes(b"fire")
    blobs.path(needed[1]).unlink()
    report = check_folder(folder, collect=True)
    assert not report.whole
    assert (report.altered, report.missing) == ((needed[0],), (needed[1],))
    assert report.freed == 25
    assert loose not in blobs.names()
    assert DiskMemory(folder).recall("k", Receipt)
