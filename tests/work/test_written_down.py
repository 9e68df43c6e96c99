"""What a step found is written down in the figure that asked for it; and folders of earlier versions open whole."""

import zipfile
from pathlib import Path

import pytest

from tests.core.test_stand import hook
from tests.shapes import concatenated, cylinder
from tests.work.test_studio import OnTheSpot, renew, shelved
from ulvet.core.bench.edition import Edition
from ulvet.core.findings.finding import AddSteps, Remedy
from ulvet.core.lengths import PrintMM
from ulvet.core.stand import steps
from ulvet.core.stand.steps import Orient
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow
from ulvet.work import edits as editing
from ulvet.work import versions
from ulvet.work.folder_check import check_folder
from ulvet.work.record_reading import read_record
from ulvet.work.remedies import apply
from ulvet.work.shelf import shelf_of
from ulvet.work.studio import Seen, Studio
from ulvet.work.variants import add_variant, show_variant

BEST = Remedy(label="best way", change=AddSteps(steps=(Orient(),)))


@pytest.fixture
def studio(tmp_path):
    folder = DataFolder(tmp_path)
    return Studio(folder, OnTheSpot(folder))


@pytest.fixture
def sought(monkeypatch):
    asked = []
    known = steps.orient_figure
    monkeypatch.setattr(steps, "orient_figure", lambda *given: asked.append(1) or known(*given))
    return asked


def turned(studio, number):
    """How a figure stands after its last check, and the ways that are written down."""
    studio.want_build(number)
    _, head, record, _ = studio.figure(number)
    recipe = studio.asked(head)[0]
    ways = next((step.taken for step in recipe.steps if isinstance(step, Orient)), ())
    assert record.key == studio.key_of(head)
    assert [said.step for said in record.steps] == list(recipe.steps)
    return record.parts[0].facts.stance, ways


def test_the_way_a_figure_stands_is_written_into_the_change_that_asked_for_it(studio, sought):
    number = shelved(studio, hook())
    apply(studio, number, Seen(1), BEST)
    stance, (way,) = turned(studio, number)
    assert (way.up, way.spin) == (stance.up, stance.spin) and sought == [1]
    # It is the same change still: nobody who saw it is refused, and one step goes back before it.
    assert studio.figure(number)[1].number == 2
    # A new sculpt stands as the one before it did.
    renew(studio, number, concatenated(hook(), cylinder(1, 3, 16, at=(0, 0, 29))))
    assert turned(studio, number) == (stance, (way,)) and sought == [1]
    # Another size has a way of its own, and going back to the first the one that was taken.
    editing.set_edition(studio, number, Seen(3), Edition(height=PrintMM(60)))
    assert len(turned(studio, number)[1]) == 2 and sought == [1, 1]
    editing.set_edition(studio, number, Seen(4), Edition())
    assert turned(studio, number)[0] == stance and sought == [1, 1]
    # Asked for once more it is sought anew.
    editing.set_steps(studio, number, Seen(5), [("orient", {"up": None, "taken": []})], "again")
    assert len(turned(studio, number)[1]) == 1 and sought == [1, 1, 1]


def test_what_a_variant_found_is_written_down_in_it_alone(studio):
    number = shelved(studio, hook())
    add_variant(studio, number, Seen(1), "lying")
    apply(studio, number, Seen(2), BEST)
    assert len(turned(studio, number)[1]) == 1
    show_variant(studio, number, Seen(3), "")
    kept = studio.recipe(studio.figure(number)[1])
    assert kept.steps[-1].taken == () and kept.as_made("lying").steps[-1].taken


def test_nothing_is_written_into_a_figure_that_has_changed_since(studio):
    first, second = shelved(studio, hook()), shelved(studio, hook(), "Twin")
    late = {}
    for number in (first, second):
        apply(studio, number, Seen(1), BEST)
    known = studio.keep_build
    studio.keep_build = lambda result: late.update(result) or {}
    studio.want_build(first)
    studio.undo(second, Seen(2))
    before = studio.figure(second)[1].recipe
    known(late)
    assert studio.figure(second)[1].recipe == before
    assert studio.recipe(studio.figure(first)[1]).steps[-1].taken
    # What asked for the first key finds its build, too.
    studio.redo(second, Seen(1))
    assert studio.figure(second)[2].key == late["asked"]


def test_a_folder_written_before_steps_had_ids_opens_with_nothing_lost(tmp_path):
    with zipfile.ZipFile(Path(__file__).parent / "folder_of_recipes_1.zip") as packed:
        packed.extractall(tmp_path)
    folder = DataFolder(tmp_path)
    studio = Studio(folder, OnTheSpot(folder))
    (one,) = shelf_of(studio)
    assert (one.figure.name, one.trouble) == ("Post", "")
    recipe = studio.recipe(one.head)
    assert [step.kind for step in recipe.steps] == ["bring-in", "credit", "show-side", "thicken", "orient", "support"]
    assert recipe.made.steps[2].direction == (0, -1, 0) and recipe.variants == ("turned",)
    # What was undone comes back, with what differs in the variant.
    studio.redo(one.figure.id, Seen(one.head.number))
    _, head, _, _ = studio.figure(one.figure.id)
    assert studio.recipe(head).as_made("turned").steps[2].direction == (1, 0, 0)
    # A version's findings are read as they were frozen, and can be compared with what is built now.
    ((version, record),) = versions.versions_of(studio, one.figure.id)
    assert version.says == "first proof" and record.findings and record.key == version.editions[0].build_key
    assert [said.step.kind for said in record.steps] == ["bring-in", "credit", "thicken", "orient", "support"]
    studio.want_build(one.figure.id)
    said = versions.comparison(studio, versions.compare(studio, one.figure.id, 1, None).result["comparison"])
    assert said.moved[0].greatest == 0
    for _ in range(head.number - 1):
        studio.undo(one.figure.id, Seen(studio.figure(one.figure.id)[1].number))
    assert studio.figure(one.figure.id)[1].number == 1
    assert check_folder(folder).whole


def test_a_figure_whose_record_is_of_an_earlier_version_is_checked_anew(studio):
    number = shelved(studio)
    studio.want_build(number)
    key = studio.figure(number)[2].key
    with studio.sessions.begin() as session:
        row = session.get(BuildRow, key)
        parts = [{**part, "soundings": []} for part in row.record["parts"]]
        row.record = {**row.record, "version": 1, "measured": {"size": [1, 1, 1]}, "parts": parts}
    again = Studio(studio.folder, OnTheSpot(studio.folder))
    # What was frozen is read as it was written; what is worked on lacks what the page now asks for.
    assert again.builds.one(key).parts[0].soundings is None
    assert again.figure(number)[2] is None and shelf_of(again)[0].glance is None
    again.want_build(number)
    assert again.figure(number)[2].measured is not None and shelf_of(again)[0].glance is not None


@pytest.mark.parametrize("held", [{}, {"steps": None}, {"steps": [{}], "findings": []}, {"version": 9}])
def test_a_record_that_is_no_record_counts_as_absent(held):
    assert read_record(BuildRow(key="k", record=held)) is None
