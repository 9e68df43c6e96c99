"""The studio's bench and the editions of its figures: changed, undone, frozen, never lost."""

import json
import sqlite3
from datetime import date

import pytest
from pydantic import ValidationError

from tests.shapes import box
from tests.work.test_studio import OnTheSpot, owned, shelved
from ulvet.core.bench import bench_edits
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, Form
from ulvet.core.bench.item import OriginKind
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.findings.finding import AddSteps, Remedy
from ulvet.core.lengths import PrintMM
from ulvet.store.folder import DataFolder
from ulvet.store.models import BuildRow
from ulvet.work import edits as editing
from ulvet.work import releasing, versions
from ulvet.work.editions import add_draft, add_edition, change_edition, move_edition, remove_edition
from ulvet.work.record_reading import read_record
from ulvet.work.refusals import Conflict, NotThere, Refused
from ulvet.work.remedies import apply
from ulvet.work.studio import Seen, Studio
from ulvet.work.studio_profile import StudioProfile, profile_of, set_profile
from ulvet.work.variants import add_variant, remove_variant

from tests.work.test_studio import THICKEN  # isort: skip

TODAY = date(2026, 12, 1)


@pytest.fixture
def studio(tmp_path):
    folder = DataFolder(tmp_path)
    return Studio(folder, OnTheSpot(folder))


def head(studio, number):
    return studio.figure_and_head(number)[1]


def looked(studio, number, edition=""):
    return Seen(head(studio, number).number, edition)


def names(studio, number):
    return [one.name for one in studio.editions(head(studio, number))]


def set_value(studio, seen, place, thing, path, value):
    studio.bench.change(seen, path, lambda bench: bench_edits.with_value(bench, place, thing, path, value, TODAY))


def test_a_new_studio_has_the_bench_ulvet_comes_with_and_every_change_is_undone(studio):
    assert (studio.bench.now().revision, studio.bench.value) == (0, DEFAULT_BENCH)
    with pytest.raises(Refused, match="nothing to undo"):
        studio.bench.undo(0)
    set_value(studio, 0, "materials", "tough-grey", "density", 1.2)
    now = studio.bench.now()
    assert (now.can_undo, now.can_redo) == (True, False)
    held = now.bench.materials[0]
    assert (held.density, held.origin_of("density").kind, held.origin_of("density").since) == (1.2, "user", TODAY)
    assert held.origin_of("strength").kind is OriginKind.BENCH_DEFAULT
    studio.bench.undo(now.revision)
    assert studio.bench.value == DEFAULT_BENCH
    studio.bench.redo(studio.bench.now().revision)
    assert studio.bench.value == now.bench
    again = Studio(studio.folder, OnTheSpot(studio.folder))
    assert again.bench.value == now.bench


def test_two_pages_do_not_overwrite_each_others_bench(studio):
    set_value(studio, 0, "materials", "tough-grey", "density", 1.2)
    with pytest.raises(Conflict):
        set_value(studio, 1, "materials", "tough-grey", "density", 1.3)
    with pytest.raises(Conflict):
        studio.bench.undo(1)
    assert studio.bench.value.materials[0].density == 1.2


@pytest.mark.parametrize(
    ("place", "thing", "path", "value"),
    [
        ("printers", "lantern-6", "volume", [0, 74, 165]),
        ("printers", "lantern-6", "edge", 40),
        ("materials", "tough-grey", "density", -1),
        ("settings", "lantern-6-tough-grey", "walls.pin.stop", -0.1),
        ("settings", "lantern-6-tough-grey", "walls.pin.caution", 0.1),
        ("settings", "lantern-6-tough-grey", "printer", "long-reed-300"),
        ("settings", "lantern-6-tough-grey", "walls", None),
        ("settings", "lantern-6-tough-grey", "id", "other"),
        ("settings", "lantern-6-tough-grey", "origins", {}),
        ("settings", "lantern-6-tough-grey", "walls.pin.taste", 1),
        ("settings", "gone", "layer", 0.1),
        ("shelves", "lantern-6", "edge", 1),
    ],
)
def test_a_value_that_cannot_be_is_refused_with_one_sentence_and_changes_nothing(studio, place, thing, path, value):
    with pytest.raises(Refused) as refused:
        set_value(studio, 0, place, thing, path, value)
    assert str(refused.value).endswith(".") and len(str(refused.value)) < 200
    assert studio.bench.value == DEFAULT_BENCH


def test_a_value_goes_back_to_what_ulvet_comes_with_and_so_does_its_origin():
    path = "walls.pin.stop"
    mine = bench_edits.with_value(DEFAULT_BENCH, "settings", "lantern-6-tough-grey", path, 0.5, TODAY)
    assert mine.settings[0].origin_of(path).kind == "user" and mine.settings[0].origin_of("walls.held").since is None
    assert bench_edits.with_value_as_shipped(mine, "settings", "lantern-6-tough-grey", path) == DEFAULT_BENCH
    assert bench_edits.with_value(mine, "settings", "lantern-6-tough-grey", path, 0.45, TODAY) == DEFAULT_BENCH


def test_a_copy_is_the_users_own_and_has_no_default_to_go_back_to():
    mine, new = bench_edits.with_copy(DEFAULT_BENCH, "settings", "lantern-6-tough-grey", "Grün & fein", TODAY)
    copy = mine.setup(new)
    assert (copy.setting.name, copy.walls, copy.setting.origin_of("walls.pin.stop").since) == (
        "Grün & fein", DEFAULT_BENCH.setup().walls, TODAY)  # fmt: skip
    with pytest.raises(bench_edits.IllegalBench):
        bench_edits.with_value_as_shipped(mine, "settings", new, "layer")
    twice, other = bench_edits.with_copy(mine, "settings", new, "Grün & fein", TODAY)
    assert other != new and len(twice.settings) == len(DEFAULT_BENCH.settings) + 2


def test_what_is_retired_serves_what_used_it_and_is_offered_no_more(studio):
    number = shelved(studio)
    retire = lambda bench: bench_edits.with_retired(bench, "printers", "lantern-6", True)  # noqa: E731
    studio.bench.change(0, "retired", retire)
    assert studio.bench.value.setup().printer.id == "lantern-10"
    studio.want_build(number)
    record = studio.figure(number)[2]
    offered = [
        remedy.change.edition.setting
        for finding in record.findings
        for remedy in finding.remedies
        if remedy.change.does == "set-edition"
    ]
    assert not [setting for setting in offered if setting.startswith("lantern-6") and setting != "lantern-6-tough-grey"]
    assert studio.edition(head(studio, number)).made.setting == "lantern-6-tough-grey"
    with pytest.raises(bench_edits.IllegalBench, match="left to print with"):
        bench = DEFAULT_BENCH
        for printer in DEFAULT_BENCH.printers:
            bench = bench_edits.with_retired(bench, "printers", printer.id, True)


def test_a_setting_that_a_figure_is_made_with_is_not_undone_away(studio):
    number = shelved(studio)
    copied = lambda bench: bench_edits.with_copy(bench, "settings", "lantern-6-tough-grey", "Mine", TODAY)[0]  # noqa: E731
    studio.bench.change(0, "Mine", copied)
    editing.set_edition(studio, number, looked(studio, number), Edition(setting="mine"))
    with pytest.raises(Refused, match="Post is made with the setting mine"):
        studio.bench.undo(2)
    with pytest.raises(Refused, match="Post"):
        studio.bench.change(2, "a file", lambda bench: DEFAULT_BENCH)
    studio.undo(number, looked(studio, number))
    studio.bench.undo(2)
    with pytest.raises(UnknownOnBench):
        editing.set_edition(studio, number, looked(studio, number), Edition(setting="mine"))


def test_only_a_build_that_read_the_changed_value_is_another(studio):
    number = shelved(studio)
    key = studio.key_of(head(studio, number))
    set_value(studio, 0, "hours", "monday", "begin", 7)
    set_value(studio, 2, "printers", "lantern-6", "price_of_hour", 9)
    # Printers are read by what offers another one; hours by nothing that is built.
    assert studio.key_of(head(studio, number)) != key
    studio.bench.undo(3)
    assert studio.key_of(head(studio, number)) == key


def test_names_ids_and_order_build_nothing(studio):
    number = shelved(studio)
    studio.want_build(number)
    second = add_edition(studio, number, looked(studio, number), "Cabinet", Edition())
    assert studio.figure(number, second)[2] is not None, "what is made is the same"
    done = len(studio.supervisor.done)
    one = studio.edition(head(studio, number), second)
    change_edition(studio, number, looked(studio, number), one.model_copy(update={"name": "Vitrine"}))
    move_edition(studio, number, looked(studio, number), second, "e1")
    assert names(studio, number) == ["Vitrine", "First edition"]
    for edition in ("", "e1", second):
        studio.want_build(number, edition)
    assert len(studio.supervisor.done) == done


def test_editions_in_any_order_give_what_they_give_alone(studio):
    made = [
        Edition(height=PrintMM(25)),
        Edition(setting="long-reed-300-matt-filament"),
        Edition(form=Form(mirrored=True)),
    ]
    alone = []
    for edition in made:
        number = shelved(studio, name="Alone")
        editing.set_edition(studio, number, looked(studio, number), edition)
        studio.want_build(number)
        alone.append(studio.figure(number)[2].parts[0].mesh)
    together = shelved(studio, name="Together")
    ids = [
        add_edition(studio, together, looked(studio, together), f"no. {k}", edition) for k, edition in enumerate(made)
    ]
    for edition in reversed(ids):
        studio.want_build(together, edition)
    assert [studio.figure(together, one)[2].parts[0].mesh for one in ids] == alone


def test_a_change_is_refused_only_where_it_would_overwrite_what_was_looked_at(studio):
    number = shelved(studio)
    second = add_edition(studio, number, looked(studio, number), "Cabinet", Edition(height=PrintMM(30)))
    seen = head(studio, number).number
    editing.set_edition(studio, number, Seen(seen, "e1"), Edition(height=PrintMM(20)))
    # The other edition was changed meanwhile, and nothing else.
    editing.set_edition(studio, number, Seen(seen, second), Edition(height=PrintMM(40)))
    heights = [one.made.height for one in studio.editions(head(studio, number))]
    assert heights == [20, 40]
    with pytest.raises(Conflict):
        editing.set_edition(studio, number, Seen(seen, second), Edition(height=PrintMM(50)))
    apply(studio, number, looked(studio, number), Remedy(label="thicken", change=AddSteps(steps=(THICKEN,))))
    with pytest.raises(Conflict):
        editing.set_edition(studio, number, Seen(seen + 2, "e1"), Edition(height=PrintMM(50)))


def test_an_edition_that_is_gone_is_not_there_and_undo_brings_it_back(studio):
    number = shelved(studio)
    second = add_edition(studio, number, looked(studio, number), "Cabinet", Edition())
    remedy = Remedy(label="thicken", change=AddSteps(steps=(THICKEN,)))
    apply(studio, number, looked(studio, number, second), remedy, only_here=True)
    assert [step.editions for step in studio.recipe(head(studio, number)).steps] == [(), (second,)]
    remove_edition(studio, number, looked(studio, number), second)
    assert len(studio.recipe(head(studio, number)).steps) == 1, "what held in no other goes with it"
    with pytest.raises(NotThere):
        studio.edition(head(studio, number), second)
    with pytest.raises(NotThere):
        remove_edition(studio, number, looked(studio, number), second)
    with pytest.raises(Refused, match="at least one"):
        remove_edition(studio, number, looked(studio, number), "e1")
    third = add_edition(studio, number, looked(studio, number), "Another", Edition())
    assert third != second, "an id is never given twice"
    studio.undo(number, looked(studio, number))
    studio.undo(number, looked(studio, number))
    assert names(studio, number) == ["First edition", "Cabinet"]
    assert len(studio.recipe(head(studio, number)).steps) == 2


def test_two_editions_of_one_name_are_refused(studio):
    number = shelved(studio)
    with pytest.raises(Refused, match="another name"):
        add_edition(studio, number, looked(studio, number), "first EDITION", Edition())
    assert names(studio, number) == ["First edition"]


def test_a_draft_asks_for_the_build_it_is_a_draft_of(studio):
    number = shelved(studio)
    with pytest.raises(Refused, match="still being checked"):
        add_draft(studio, number, looked(studio, number))
    studio.want_build(number)
    add_draft(studio, number, looked(studio, number))
    add_draft(studio, number, looked(studio, number))
    assert names(studio, number)[1:] == ["First edition, draft 2", "First edition, draft"]


def test_a_variant_is_of_the_edition_that_shows_it(studio):
    number = shelved(studio)
    second = add_edition(studio, number, looked(studio, number), "Lying", Edition())
    add_variant(studio, number, looked(studio, number, second), "lying")
    assert [one.made.variant for one in studio.editions(head(studio, number))] == ["", "lying"]
    apply(studio, number, looked(studio, number, second), Remedy(label="t", change=AddSteps(steps=(THICKEN,))))
    assert [step.on for step in studio.asked(head(studio, number))[0].steps] == [True, False]
    assert [step.on for step in studio.asked(head(studio, number), second)[0].steps] == [True, True]
    remove_variant(studio, number, looked(studio, number), "lying")
    assert [one.made.variant for one in studio.editions(head(studio, number))] == ["", ""]


def test_a_version_freezes_every_edition_that_is_built_and_says_which_are_not(studio):
    number = shelved(studio)
    studio.want_build(number)
    second = add_edition(studio, number, looked(studio, number), "Large", Edition(height=PrintMM(60)))
    third = add_edition(studio, number, looked(studio, number), "Larger", Edition(height=PrintMM(90)))
    studio.want_build(number, second)
    versions.freeze(studio, number, looked(studio, number), "first")
    remove_edition(studio, number, looked(studio, number), second)
    ((version, record),) = versions.versions_of(studio, number, second)
    assert record.size_mm[2] == pytest.approx(60)
    assert {one.name: one.build_key is not None for one in version.editions} == {
        "First edition": True, "Larger": False, "Large": True}  # fmt: skip
    assert versions.versions_of(studio, number, third)[0][1] is None
    with pytest.raises(NotThere, match="in this edition"):
        versions.compare(studio, number, 1, None, third)


def test_a_release_is_of_the_edition_that_was_looked_at(studio):
    number = owned(studio)
    second = add_edition(studio, number, looked(studio, number), "Large", Edition(height=PrintMM(60)))
    with pytest.raises(Refused, match="still being checked"):
        releasing.make_release(studio, number, second)
    studio.want_build(number, second)
    job = releasing.make_release(studio, number, second)
    (row,) = releasing.releases_of(studio, number)
    assert job.result["release"] == row.id and (row.edition, row.edition_name) == (second, "Large")
    assert any(file["name"].startswith("post_60") for file in row.files)


def test_a_folder_of_before_editions_opens_with_nothing_lost(tmp_path):
    """The undo chain, versions and releases of a folder that the program before editions wrote."""
    folder = DataFolder(tmp_path)
    studio = Studio(folder, OnTheSpot(folder))
    number = owned(studio, box(6, 6, 20))
    studio.want_build(number)
    versions.freeze(studio, number, looked(studio, number), "first")
    releasing.make_release(studio, number)
    editing.set_edition(studio, number, looked(studio, number), Edition(height=PrintMM(44)))
    key = studio.figure_and_head(number)[1].number
    _as_before_editions(folder)
    again = Studio(folder, OnTheSpot(folder))
    assert again.figure_and_head(number)[1].number == key
    (one,) = again.editions(head(again, number))
    assert (one.made.height, one.made.setting) == (44, "long-reed-300-matt-filament")
    ((version, record),) = versions.versions_of(again, number)
    assert version.says == "first" and record is not None
    (release,) = releasing.releases_of(again, number)
    assert (release.edition, release.edition_name) == ("e1", "First edition")
    again.undo(number, looked(again, number))
    assert again.editions(head(again, number))[0].made.height is None
    assert again.bench.value == DEFAULT_BENCH


def _as_before_editions(folder):
    """Take a database back to what the revision before editions held, with a printer and a material in each edition."""
    rows = sqlite3.connect(folder.database)
    rows.executescript("ALTER TABLE revisions ADD COLUMN edition JSON; ALTER TABLE versions ADD COLUMN build_key TEXT;")
    for number, editions in rows.execute("SELECT id, editions FROM revisions").fetchall():
        made = json.loads(editions)[0]["made"]
        old = {"height": made["height"], "factor": made["factor"], "printer": "long-reed-300",
               "material": "matt-filament", "use": made["use"], "sanding": made["sanding"]}  # fmt: skip
        rows.execute("UPDATE revisions SET edition = ? WHERE id = ?", [json.dumps(old), number])
    rows.executescript(
        "UPDATE versions SET build_key = (SELECT build_key FROM version_editions WHERE version_id = versions.id);"
        "DROP TABLE version_editions; DROP TABLE benches; DROP TABLE bench_revisions; DROP TABLE proofs;"
        "DROP TABLE proof_revisions; DROP TABLE release_sets; DROP TABLE release_set_revisions; DROP TABLE issues;"
        "DROP TABLE plans; DROP TABLE plan_revisions; DROP TABLE stock_entries; DROP TABLE logged_hours;"
        "DROP TABLE painted_copies; DROP TABLE painted_copy_revisions; DROP TABLE mixes;"
        "ALTER TABLE revisions DROP COLUMN editions; ALTER TABLE releases DROP COLUMN edition;"
        "ALTER TABLE releases DROP COLUMN edition_name; UPDATE alembic_version SET version_num = '0008';"
    )
    rows.commit()
    rows.close()


def test_what_is_changed_is_told_once_it_is_kept_and_nothing_that_was_refused(studio):
    heard = []
    studio.sessions.heard = heard.append
    number = shelved(studio)
    set_value(studio, 0, "materials", "tough-grey", "density", 1.2)
    studio.bench.undo(2)
    add_edition(studio, number, looked(studio, number), "Cabinet", Edition())
    studio.undo(number, looked(studio, number))
    with pytest.raises(Refused):
        set_value(studio, 1, "materials", "tough-grey", "density", -1)
    with pytest.raises(Conflict):
        studio.undo(number, Seen(9))
    # A new bench has the one Ulvet comes with as its first state.
    assert heard == [
        ("figure", number, 1), ("bench", 1, 1), ("bench", 1, 2), ("bench", 1, 1), ("figure", number, 2),
        ("figure", number, 1)]  # fmt: skip


def test_the_studio_says_its_name_money_and_dates(studio):
    assert profile_of(studio).name == "Sedgewater"
    set_profile(studio, StudioProfile(name=" Reedbank ", currency="€", dates="year-month-day"))
    again = Studio(studio.folder, OnTheSpot(studio.folder))
    assert (profile_of(again).name, profile_of(again).currency) == ("Reedbank", "€")
    for wrong in ({"name": ""}, {"name": "x" * 61}, {"currency": "pieces of eight"}, {"dates": "year"}):
        with pytest.raises(ValidationError):
            StudioProfile.model_validate(wrong)


def test_which_length_is_meant_is_kept_until_the_size_is_another(studio):
    number = shelved(studio)
    editing.set_edition(studio, number, looked(studio, number), Edition(height=PrintMM(32)), "height to the eyes")
    editing.set_edition(studio, number, looked(studio, number), Edition(height=PrintMM(32), sanding=PrintMM(0.1)))
    assert studio.edition(head(studio, number)).sized_by == "height to the eyes"
    editing.set_edition(studio, number, looked(studio, number), Edition(height=PrintMM(40)))
    assert studio.edition(head(studio, number)).sized_by == ""


def test_the_findings_of_a_record_of_before_settings_are_read_as_they_were_frozen(studio):
    number = shelved(studio)
    studio.want_build(number)
    record = studio.figure(number).record
    held = record.model_dump(mode="json")
    changed = 0
    for finding in held["findings"]:
        for remedy in finding["remedies"]:
            edition = remedy["change"].get("edition")
            if edition:
                printer, material = edition.pop("setting")[:9], edition.pop("setting", "tough-grey")
                edition.update(printer=printer, material=material)
                for name in ("part_settings", "variant", "form"):
                    edition.pop(name)
                changed += 1
    old = read_record(BuildRow(key=record.key, record={**held, "version": 2}))
    assert changed > 0 and [one.title for one in old.findings] == [one.title for one in record.findings]
    asked = [r.change.edition.setting for f in old.findings for r in f.remedies if r.change.does == "set-edition"]
    assert set(asked) == {"lantern-6-tough-grey"}


def test_a_figure_is_brought_in_in_a_setting_that_is_offered(studio):
    retire = lambda bench: bench_edits.with_retired(bench, "settings", "lantern-6-tough-grey", True)  # noqa: E731
    studio.bench.change(0, "retired", retire)
    number = shelved(studio)
    assert studio.edition(head(studio, number)).made.setting == "lantern-6-plain-ivory"


def test_undo_does_not_lead_to_a_setting_that_is_gone(studio):
    number = shelved(studio)
    copied = lambda bench: bench_edits.with_copy(bench, "settings", "lantern-6-tough-grey", "Mine", TODAY)[0]  # noqa: E731
    studio.bench.change(0, "Mine", copied)
    editing.set_edition(studio, number, looked(studio, number), Edition(setting="mine"))
    editing.set_edition(studio, number, looked(studio, number), Edition())
    studio.bench.undo(2)
    with pytest.raises(Refused, match="put that back first"):
        studio.undo(number, looked(studio, number))
    assert studio.edition(head(studio, number)).made.setting == "lantern-6-tough-grey"
    studio.bench.redo(1)
    studio.undo(number, looked(studio, number))
    assert studio.edition(head(studio, number)).made.setting == "mine"
