"""The studio's proofs in its folder: what needs their blobs, and what another version wrote."""

import json
import sqlite3

import pytest

from tests.proofs import came, proof
from tests.shapes import box
from tests.work.test_bench_and_editions import OnTheSpot, owned
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.plates.wanted import WantedPart
from ulvet.core.proof.proof import Outcome
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder
from ulvet.work.proofing import begin_proofs, state_now
from ulvet.work.refusals import Conflict, NotThere, Refused
from ulvet.work.studio import Studio

SETUP = DEFAULT_BENCH.setup()


@pytest.fixture
def folder(tmp_path):
    return DataFolder(tmp_path)


@pytest.fixture
def studio(folder):
    return Studio(folder, OnTheSpot(folder))


def sound(number, studio):
    now = studio.proofs.one(number)
    copies = came([Outcome.SOUND]).copies
    studio.proofs.enter(number, now.revision, "sound", lambda one: one.came.model_copy(update={"copies": copies}))


def test_what_a_proof_printed_is_kept_when_the_figure_has_changed(studio, folder):
    number = owned(studio, box(6, 6, 20))
    studio.want_build(number)
    (one,) = begin_proofs(studio, [WantedPart(figure=number)])
    mesh = studio.proofs.one(one).value.parts[0].form.mesh
    assert mesh not in check_folder(folder).unneeded
    # Nothing else needs it.
    rows = sqlite3.connect(folder.database)
    rows.execute("DELETE FROM builds")
    rows.commit()
    for path in folder.results.glob("*.json"):
        path.unlink()
    assert mesh not in check_folder(folder, collect=True).unneeded
    assert studio.blobs.holds(mesh)


def test_a_proof_of_another_version_is_kept_unread_and_stops_nothing(studio, folder):
    first, second = studio.proofs.begin([proof(SETUP, came=came([Outcome.SOUND])), proof(SETUP)])
    rows = sqlite3.connect(folder.database)
    (held,) = rows.execute("SELECT proof FROM proof_revisions WHERE proof_id = ?", [first]).fetchone()
    rows.execute("UPDATE proof_revisions SET proof = ? WHERE proof_id = ?",
                 [json.dumps({**json.loads(held), "of_later": 1}), first])  # fmt: skip
    rows.commit()
    again = Studio(folder, OnTheSpot(folder))
    assert [one.number for one in again.proofs.all()] == [second]
    assert again.proofs.unreadable == 1
    with pytest.raises(NotThere):
        again.proofs.one(first)
    with pytest.raises(NotThere):
        again.proofs.enter(first, 1, "x", lambda one: one.came)


def test_every_entry_is_undone_and_made_again(studio):
    (number,) = studio.proofs.begin([proof(SETUP)])
    sound(number, studio)
    assert studio.proofs.one(number).value.held
    with pytest.raises(Conflict):
        studio.proofs.undo(number, 1)
    studio.proofs.undo(number, 2)
    assert not studio.proofs.one(number).value.held
    studio.proofs.redo(number, 1)
    assert studio.proofs.one(number).value.held


def test_what_a_copy_of_values_slips_in_is_held_to_its_limits(studio):
    (number,) = studio.proofs.begin([proof(SETUP)])
    with pytest.raises(Refused, match="greater than 0"):
        studio.proofs.enter(number, 1, "x", lambda one: one.came.model_copy(update={"seconds": 0.0}))
    assert studio.proofs.one(number).revision == 1
    assert studio.proofs.unreadable == 0


def test_the_same_files_proofed_twice_are_told_by_the_later(studio):
    number = owned(studio, box(6, 6, 20))
    studio.want_build(number)
    for _ in range(2):
        begin_proofs(studio, [WantedPart(figure=number)])
    first, second = (one.number for one in studio.proofs.all())
    sound(first, studio)
    assert state_now(studio, number)[0].kind == "running"
    sound(second, studio)
    state = state_now(studio, number)[0]
    assert (state.kind, state.proof) == ("exact", second)
