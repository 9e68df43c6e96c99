"""What stands on the shelf though it cannot be used, what is taken off it, and what makes room on the disk."""

import os
import time
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import select

from tests.shapes import box
from tests.work.test_studio import OnTheSpot, shelved
from ulvet.core.bench.edition import Edition
from ulvet.core.blob_hash import blobs_named
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow, Figure, Revision, Source
from ulvet.work import disk_budget as keeping
from ulvet.work import edits as editing
from ulvet.work.disk_budget import SPARED_SECONDS, disk_use, keep_within_budget, set_budget
from ulvet.work.folder_check import check_folder
from ulvet.work.importing import resume_uploads
from ulvet.work.refusals import NotThere, Refused
from ulvet.work.releasing import resume_releases
from ulvet.work.shelf import KEPT_FOR, delete_figure, deleted_figures, purge_deleted, put_back, resume_checks, shelf_of
from ulvet.work.studio import Seen, Studio
from ulvet.work.versions import freeze


@pytest.fixture
def folder(tmp_path):
    return DataFolder(tmp_path)


@pytest.fixture
def studio(folder):
    return Studio(folder, OnTheSpot(folder))


def rewrite(studio, number, **held):
    """The head's row as if another version of Ulvet had written it."""
    with studio.sessions.begin() as session:
        head = session.get(Revision, session.get(Figure, number).head_id)
        head.recipe = {**head.recipe, **held}


def opened_again(studio):
    again = Studio(studio.folder, OnTheSpot(studio.folder))
    resume_uploads(again)
    resume_checks(again)
    resume_releases(again)
    return again


@pytest.mark.parametrize(
    ("held", "said"),
    [
        ({"version": 99}, "newer Ulvet"),
        ({"steps": [{"kind": "bring-in", "colour": "teal"}]}, "cannot be read at steps 0"),
    ],
)
def test_a_recipe_that_cannot_be_read_stands_on_the_shelf_with_a_sentence_and_all_else_works(studio, held, said):
    good, bad = shelved(studio, name="Good"), shelved(studio, box(5, 5, 5), name="Bad")
    rewrite(studio, bad, **held)
    again = opened_again(studio)
    found = {one.figure.name: one for one in shelf_of(again)}
    assert said in found["Bad"].trouble and "othing of it was changed" in found["Bad"].trouble
    assert found["Good"].glance is not None and not found["Good"].trouble
    for act in (again.figure, again.want_build):
        with pytest.raises(UnreadableRecipe, match=said):
            act(bad)
    editing.set_edition(again, good, Seen(1), Edition(height=PrintMM(30)))
    assert check_folder(studio.folder, collect=True).whole
    assert Blobs(studio.folder.blobs).holds(box(5, 5, 5).hash), "what it names is kept though it is not understood"


def test_a_figure_whose_source_is_missing_stands_on_the_shelf_with_a_sentence(studio):
    shelved(studio, name="Good"), shelved(studio, box(5, 5, 5), name="Bad")
    studio.blobs.remove(box(5, 5, 5).hash)
    found = {one.figure.name: one for one in shelf_of(opened_again(studio))}
    assert "missing from the store" in found["Bad"].trouble
    assert found["Good"].glance is not None


def test_a_build_of_which_a_blob_is_missing_is_made_again(studio):
    number = shelved(studio)
    studio.want_build(number)
    key = studio.figure(number)[2].key
    studio.blobs.remove(studio.builds.one(key).parts[0].display)
    again = opened_again(studio)
    assert again.builds.one(key).parts[0].display in again.blobs.names()


def test_a_record_is_read_once(studio):
    number = shelved(studio)
    studio.want_build(number)
    key = studio.figure(number)[2].key
    assert studio.builds.one(key) is studio.builds.one(key)


def test_notes_that_were_damaged_do_not_keep_the_server_from_starting(studio):
    (studio.folder.uploads / "a.json").write_text("{half", "utf-8")
    (studio.folder.wanted / "release-1-k.json").write_text('{"figure": 1}', "utf-8")
    opened_again(studio)
    assert not list(studio.folder.wanted.iterdir()) and not list(studio.folder.uploads.iterdir())


def test_collecting_keeps_everything_that_a_build_names(studio):
    number = shelved(studio)
    studio.want_build(number)
    with studio.sessions() as session:
        row = session.scalar(select(BuildRow))
    record = studio.builds.one(row.key)
    detail = studio.blobs.put(b"the detail that is lost")
    with studio.sessions.begin() as session:
        parts = [{**part, "detail_display": detail} for part in row.record["parts"]]
        session.get(BuildRow, row.key).record = {**row.record, "parts": parts}
    report = check_folder(studio.folder, collect=True)
    assert not report.missing
    assert {detail, *blobs_named(record)} <= set(studio.blobs.names())


def test_a_deleted_figure_is_off_the_shelf_until_it_is_put_back_and_gone_after_a_month(studio):
    kept, gone = shelved(studio, name="Kept"), shelved(studio, box(5, 5, 5), name="Gone")
    studio.want_build(gone)
    freeze(studio, gone, Seen(1), "first")
    delete_figure(studio, gone)
    assert [one.figure.name for one in shelf_of(studio)] == ["Kept"]
    assert [figure.name for figure in deleted_figures(studio)] == ["Gone"]
    for act in (studio.figure, studio.want_build, lambda number: delete_figure(studio, number)):
        with pytest.raises(NotThere):
            act(gone)
    put_back(studio, gone)
    assert [one.figure.name for one in shelf_of(studio)] == ["Gone", "Kept"]
    with pytest.raises(Refused, match="on the shelf already"):
        put_back(studio, gone)
    delete_figure(studio, gone)
    almost = datetime.now(UTC) + KEPT_FOR - timedelta(hours=1)
    assert purge_deleted(studio, almost) == 0
    assert purge_deleted(studio, almost + timedelta(hours=2)) == 1
    with pytest.raises(NotThere, match="too long ago"):
        put_back(studio, gone)
    assert studio.figure(kept)[0].name == "Kept"
    with studio.sessions() as session:
        assert [row.figure_id for row in session.scalars(select(Source))] == [kept]
    assert check_folder(studio.folder, collect=True).whole
    assert not studio.blobs.holds(box(5, 5, 5).hash)


def aged(folder, seconds):
    """Every file of the folder as if it had been used that long ago."""
    then = time.time() - seconds
    for room in (folder.blobs, folder.results):
        for path in room.rglob("*"):
            os.utime(path, (then, then))


def test_beyond_the_budget_what_can_be_made_again_goes_and_what_is_needed_stays(studio, monkeypatch):
    number = shelved(studio)
    for height in (20, 30, 40):
        editing.set_edition(studio, number, Seen(studio.figure(number)[1].number), Edition(height=PrintMM(height)))
        studio.want_build(number)
        if height == 30:
            freeze(studio, number, Seen(studio.figure(number)[1].number), "the one that was printed")
    monkeypatch.setattr(keeping, "_budget", lambda studio: 1e-6)
    with studio.sessions.begin() as session:
        for row in session.scalars(select(BuildRow)):
            row.finished = datetime.now(UTC) - timedelta(days=1)
    assert keep_within_budget(studio) == 0, "what was written in the last hour stays"
    aged(studio.folder, 2 * SPARED_SECONDS)
    before = disk_use(studio).taken
    freed = keep_within_budget(studio)
    assert freed > 0 and disk_use(studio).taken == before - freed
    with studio.sessions() as session:
        heights = sorted(row.record["size_mm"][2] for row in session.scalars(select(BuildRow)))
    assert heights == [pytest.approx(30), pytest.approx(40)], "of the version and of the head"
    assert check_folder(studio.folder).whole
    monkeypatch.setattr(keeping, "_budget", lambda studio: 20.0)
    assert keep_within_budget(studio) == 0


def test_no_room_is_made_while_a_job_is_at_work(studio, monkeypatch):
    shelved(studio)
    loose = studio.blobs.put(b"written by a job that is not done")
    aged(studio.folder, 2 * SPARED_SECONDS)
    monkeypatch.setattr(keeping, "_budget", lambda studio: 1e-9)
    studio.supervisor.busy = True
    assert keep_within_budget(studio) == 0
    studio.supervisor.busy = False
    assert keep_within_budget(studio) > 0
    assert not studio.blobs.holds(loose)


@pytest.mark.parametrize("wrong", [0.0, -1.0, 1e9])
def test_a_budget_that_makes_no_sense_is_refused(studio, wrong):
    with pytest.raises(Refused, match="between 1 and"):
        set_budget(studio, wrong)
    set_budget(studio, 7.5)
    assert disk_use(studio).budget == 7_500_000_000


def test_reading_does_not_wait_for_a_writer(studio):
    number = shelved(studio)
    with studio.sessions.begin() as session:
        session.get(Figure, number).name = "Half renamed"
        session.flush()
        assert studio.figure(number)[0].name == "Post"
