"""The studio with jobs done on the spot, so that every state can be reached at will."""

import itertools
import threading
from contextlib import contextmanager

import pytest

from tests.core.test_mending import crossing_itself
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.compare.findings import Verdict
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.findings.finding import AddSteps, ReadSourceAs, Remedy, SetEdition
from ulvet.core.formats.reading import Reading
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.gauge.steps import Thicken
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.mend.steps import CloseHoles, OrientFaces
from ulvet.core.recipe.anchors import Anchor
from ulvet.store.folder import DataFolder
from ulvet.work import edits as editing
from ulvet.work import releasing, versions
from ulvet.work.importing import add_figure, bring_in
from ulvet.work.job_progress import JobProgress
from ulvet.work.jobs import JOBS
from ulvet.work.refusals import Conflict, NotThere, Refused
from ulvet.work.remedies import apply, preview, remedy_of
from ulvet.work.shelf import shelf_of
from ulvet.work.studio import Seen, Studio
from ulvet.work.supervisor import Job, JobState
from ulvet.work.trials import tried_change

THICKEN = Thicken(wall=PrintMM(0.8), places=(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(5))),), reach=FigureMM(4))


class OnTheSpot:
    """Does every job at once and in this process, or fails it when told to."""

    def __init__(self, folder):
        self.folder, self.fails, self.dies, self.busy, self.done = folder, False, False, False, []
        self.numbers = itertools.count(1)
        self.last = {}

    def submit(
        self, kind, key, values, says, expected=5.0, figure=None, memory=0, then=lambda r: None, after=lambda j: None
    ):
        job = Job(next(self.numbers), kind, key, says, expected, {figure} - {None})
        self.done.append(kind)
        self.last[kind, key] = job
        if self.fails:
            job.state, job.error = JobState.FAILED, "It failed."
            return job
        result = JOBS[kind](self.folder, values, JobProgress(lambda said: None))
        job.result, job.state = then(result) or result, JobState.DONE
        if not self.dies:
            after(job)
        return job

    def latest(self, kind, key):
        return self.last.get((kind, key))

    def drop(self, kind, figure, *wanted):
        return None

    @contextmanager
    def while_idle(self):
        yield not self.busy


@pytest.fixture
def studio(tmp_path):
    folder = DataFolder(tmp_path)
    return Studio(folder, OnTheSpot(folder))


def owned(studio, mesh=None, name="Post"):
    """A figure on the shelf that is its sculptor's own work, which can be released."""
    number = shelved(studio, mesh, name)
    _, head, _, _ = studio.figure(number)
    credit = {"kind": "credit", "source": head.recipe["steps"][0]["source"], "terms": "own-work"}
    editing.add_steps(studio, number, Seen(head.number), [credit], "my own")
    return number


def shelved(studio, mesh=None, name="Post"):
    mesh = mesh or concatenated(box(6, 6, 10), cylinder(0.2, 8, 24, at=(3, 3, 9)))
    studio.blobs.put_mesh(mesh)
    step = bring_in_step(Reading(mesh), "post.stl")
    brought = {"step": step.model_dump(mode="json"), "mesh_hash": mesh.hash, "file_bytes": 9}
    brought["file_hash"] = studio.blobs.put(b"the file of " + mesh.hash.encode())
    return add_figure(studio, name, "post.stl", brought)


def kinds(studio, number):
    _, head, _, _ = studio.figure(number)
    return [step["kind"] for step in head.recipe["steps"]]


def test_every_kind_of_change_becomes_a_revision_and_is_taken_back_one_by_one(studio):
    number = shelved(studio)
    changes = [
        Remedy(label="turn", change=AddSteps(steps=(OrientFaces(), CloseHoles()))),
        Remedy(label="larger", change=SetEdition(edition=Edition(height=PrintMM(50)))),
        Remedy(label="inches", change=ReadSourceAs(unit="in")),
        Remedy(label="up", change=ReadSourceAs(up="y")),
    ]
    seen = [studio.figure(number)[1]]
    for remedy in changes:
        apply(studio, number, Seen(seen[-1].number), remedy)
        seen.append(studio.figure(number)[1])
    assert [head.number for head in seen] == [1, 2, 3, 4, 5]
    assert [head.says for head in seen[1:]] == ["turn", "larger", "inches", "up"]
    first = seen[-1].recipe["steps"][0]
    assert (first["unit"], first["up"], first["doubt"]) == ("in", "y", "")
    for before in reversed(seen[:-1]):
        studio.undo(number, Seen(studio.figure(number)[1].number))
        assert studio.figure(number)[1].recipe == before.recipe
        assert studio.figure(number)[1].editions == before.editions
    with pytest.raises(Refused, match="nothing to undo"):
        studio.undo(number, Seen(1))


def test_redo_follows_the_newest_branch(studio):
    number = shelved(studio)
    editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(20)))
    studio.undo(number, Seen(2))
    editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(90)))
    studio.undo(number, Seen(3))
    studio.redo(number, Seen(1))
    assert studio.figure(number)[1].editions[0]["made"]["height"] == 90
    with pytest.raises(Refused, match="nothing to redo"):
        studio.redo(number, Seen(3))


def test_of_many_writers_that_saw_the_same_revision_one_wins_and_nothing_is_lost(studio):
    number = shelved(studio)
    came, ready = [], threading.Barrier(8)

    def change(k):
        ready.wait()
        try:
            editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(20 + k)))
            came.append("kept")
        except Conflict:
            came.append("conflict")

    threads = [threading.Thread(target=change, args=(k,)) for k in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(came) == ["conflict"] * 7 + ["kept"]
    assert studio.figure(number)[1].number == 2


def test_a_refused_change_leaves_the_head_alone(studio):
    number = shelved(studio)
    apply(studio, number, Seen(1), Remedy(label="thicken", change=AddSteps(steps=(THICKEN,))))
    for step, field, value in ((2, "wall", 0), (2, "wall", 1e9), (2, "places", 1), (2, "nothing", 1), (1, "unit", 1)):
        with pytest.raises(Refused):
            editing.edit_step(studio, number, Seen(2), step, field, value)
    for step in (-1, 0, 3, 99):
        with pytest.raises(NotThere):
            editing.edit_step(studio, number, Seen(2), step, "wall", 1)
    with pytest.raises(UnknownOnBench):
        editing.set_edition(studio, number, Seen(2), Edition(setting="no-such"))
    with pytest.raises(UnknownOnBench):
        editing.set_edition(studio, number, Seen(2), Edition(part_settings={"x": "none"}))
    with pytest.raises(Conflict):
        editing.edit_step(studio, number, Seen(1), 2, "wall", 0.9)
    assert studio.figure(number)[1].number == 2
    assert kinds(studio, number) == ["bring-in", "thicken"]


def test_figures_do_not_touch_each_other(studio):
    one, two = shelved(studio, name="One"), shelved(studio, box(4, 4, 4), name="Two")
    editing.set_edition(studio, one, Seen(1), Edition(height=PrintMM(44)))
    assert studio.figure(two)[1].number == 1
    assert [one.figure.name for one in shelf_of(studio)] == ["One", "Two"]
    for act in (lambda: studio.figure(99), lambda: studio.undo(99, Seen(1)), lambda: studio.want_build(99)):
        with pytest.raises(NotThere):
            act()


def test_a_build_is_wanted_once_and_a_failed_one_only_when_asked_again(studio):
    number = shelved(studio)
    studio.supervisor.fails = True
    assert studio.want_build(number).state is JobState.FAILED
    assert studio.want_build(number).error == "It failed."
    assert studio.supervisor.done == ["build"]
    studio.supervisor.fails = False
    assert studio.want_build(number, again=True).state is JobState.DONE
    assert studio.want_build(number) is None
    assert studio.supervisor.done == ["build", "build"]


def test_going_back_to_an_edition_that_was_checked_builds_nothing(studio):
    number = shelved(studio)
    studio.want_build(number)
    editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(40)))
    studio.want_build(number)
    editing.set_edition(studio, number, Seen(2), Edition())
    assert studio.want_build(number) is None
    assert studio.supervisor.done == ["build", "build"]


def test_remedies_and_trials_belong_to_the_build_they_were_offered_for(studio):
    number = shelved(studio)
    studio.want_build(number)
    record = studio.figure(number)[2]
    thin = next(k for k, f in enumerate(record.findings) if f.code == "thin-wall")
    assert remedy_of(record, thin, 0).label.startswith("Thicken")
    for finding, remedy in ((thin, 99), (99, 0), (-1, 0), (thin, -1)):
        with pytest.raises(NotThere):
            remedy_of(record, finding, remedy)
    trial = preview(studio, record.key, thin, 0, number)
    (part,) = tried_change(studio, trial.result["tried"]).parts
    assert studio.blobs.mesh(part.mesh).hash == part.mesh != record.parts[0].mesh
    editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(40)))
    with pytest.raises(NotThere, match="changed since"):
        preview(studio, record.key, thin, 0, number)


def test_a_trial_of_what_cannot_be_done_says_why_and_changes_nothing(studio):
    number = shelved(studio, crossing_itself())
    studio.want_build(number)
    record = studio.figure(number)[2]
    crossing = next(k for k, f in enumerate(record.findings) if f.code == "crossing-faces")
    exact = next(k for k, r in enumerate(record.findings[crossing].remedies) if r.label.startswith("Cut small tangles"))
    tried = tried_change(studio, preview(studio, record.key, crossing, exact, number).result["tried"])
    assert tried.said.startswith("Not done: ") and tried.said.endswith(".")
    assert tried.parts[0].mesh == record.parts[0].mesh


def test_a_release_waits_for_the_check_and_stays_when_the_figure_moves_on(studio):
    number = owned(studio)
    with pytest.raises(Refused, match="still being checked"):
        releasing.make_release(studio, number)
    studio.want_build(number)
    first = releasing.make_release(studio, number).result["release"]
    kept = releasing.one_release(studio, first)
    editing.set_edition(studio, number, Seen(2), Edition(height=PrintMM(40)))
    studio.want_build(number)
    releasing.make_release(studio, number)
    names = [row.file_name for row in releasing.releases_of(studio, number)]
    assert names == ["post_release.zip", "post_release.zip"]
    assert (
        releasing.one_release(studio, first).zip_hash
        == kept.zip_hash
        != releasing.releases_of(studio, number)[0].zip_hash
    )
    assert studio.blobs.path(kept.zip_hash).stat().st_size == kept.zip_bytes
    with pytest.raises(NotThere):
        releasing.one_release(studio, 99)


def test_the_same_job_done_twice_gives_the_same_bytes(studio):
    number = owned(studio)
    studio.want_build(number)
    one = releasing.make_release(studio, number).result
    two = releasing.make_release(studio, number).result
    assert (
        releasing.one_release(studio, one["release"]).zip_hash == releasing.one_release(studio, two["release"]).zip_hash
    )


def test_a_studio_opened_again_finds_everything(studio, tmp_path):
    number = shelved(studio)
    studio.want_build(number)
    editing.set_edition(studio, number, Seen(1), Edition(height=PrintMM(40)))
    again = Studio(DataFolder(tmp_path), studio.supervisor)
    assert again.figure(number)[1].editions[0]["made"]["height"] == 40
    again.undo(number, Seen(2))
    assert again.figure(number)[2].key == studio.figure(number)[2].key


# Versions


def seen(studio, figure):
    studio.want_build(figure)
    return studio.figure(figure)[1].number


def test_versions_are_numbered_and_freeze_what_was_seen(studio):
    figure = shelved(studio)
    first = versions.freeze(studio, figure, Seen(seen(studio, figure)), "proof")
    assert (first.number, first.says) == (1, "proof")
    with pytest.raises(Refused, match="version 1 already"):
        versions.freeze(studio, figure, Seen(seen(studio, figure)), "")
    editing.set_edition(studio, figure, Seen(seen(studio, figure)), Edition(height=PrintMM(40)))
    with pytest.raises(Conflict):
        versions.freeze(studio, figure, Seen(1), "")
    with pytest.raises(Refused, match="being checked"):
        versions.freeze(studio, figure, Seen(2), "")
    assert versions.freeze(studio, figure, Seen(seen(studio, figure)), "").number == 2
    assert [version.number for version, _ in versions.versions_of(studio, figure)] == [2, 1]


def test_a_version_outlives_undo_and_is_compared_with_what_came_after(studio):
    figure = shelved(studio)
    versions.freeze(studio, figure, Seen(seen(studio, figure)), "")
    places = tuple(Anchor(point=(FigureMM(0), FigureMM(0), FigureMM(z))) for z in (11, 13, 15))
    thick = THICKEN.model_copy(update={"places": places})
    apply(studio, figure, Seen(1), Remedy(label="thicker", change=AddSteps(steps=(thick,))))
    studio.want_build(figure)
    job = versions.compare(studio, figure, 1, None)
    said = versions.comparison(studio, job.result["comparison"])
    verdicts = {match.verdict for match in said.matched if (match.before or match.after).code == "thin-wall"}
    assert verdicts == {Verdict.FIXED}
    (moved,) = said.moved
    assert 0.19 < moved.greatest < 0.31  # 0.2 on the faces, more where they meet
    assert 0 < moved.mean < moved.greatest
    studio.undo(figure, Seen(2))
    same = versions.compare(studio, figure, 1, None)
    assert versions.comparison(studio, same.result["comparison"]).moved[0].greatest == 0
    with pytest.raises(NotThere, match="version 7"):
        versions.compare(studio, figure, 7, None)
    with pytest.raises(NotThere):
        versions.comparison(studio, studio.blobs.put(b"something else"))


def test_sentences_are_switched_and_moved_as_revisions(studio):
    figure = shelved(studio)
    for step in (CloseHoles(), OrientFaces()):
        apply(studio, figure, Seen(seen(studio, figure)), Remedy(label="x", change=AddSteps(steps=(step,))))
    editing.move_step(studio, figure, Seen(3), 3, before=2)
    editing.switch_step(studio, figure, Seen(4), 3, False)
    recipe, _ = studio.asked(studio.figure(figure)[1])
    assert [(step.kind, step.on) for step in recipe.steps[1:]] == [("orient-faces", False), ("close-holes", True)]
    with pytest.raises(Refused, match="sources come first"):
        editing.move_step(studio, figure, Seen(5), 2, before=1)
    with pytest.raises(NotThere):
        editing.switch_step(studio, figure, Seen(5), 9, False)
    studio.undo(figure, Seen(5))
    assert studio.asked(studio.figure(figure)[1])[0].steps[1].on


def test_a_figure_is_stood_in_one_change(studio):
    figure = shelved(studio)
    editing.set_steps(studio, figure, Seen(1), [("orient", {"up": (0, 0, -1)}), ("support", {"lift": 3.0})], "stood")
    studio.want_build(figure)
    _, head, record, _ = studio.figure(figure)
    assert (head.number, head.says) == (2, "stood")
    stance = record.parts[0].facts.stance
    assert stance.lift == 3 and stance.contacts and record.parts[0].supports
    assert len(record.parts[0].tips) == len(stance.contacts)
    with pytest.raises(Refused):
        editing.set_steps(studio, figure, Seen(2), [("orient", {"up": (0, 0, 0)})], "nowhere")


def test_a_release_under_way_when_the_server_ends_is_made_once(studio):
    figure = owned(studio)
    studio.want_build(figure)
    studio.supervisor.dies = True  # all was done, but nobody lived to take the note away
    releasing.make_release(studio, figure)
    studio.supervisor.dies = False
    releasing.resume_releases(studio)
    assert studio.supervisor.done.count("release") == 2
    assert len(releasing.releases_of(studio, figure)) == 1
    releasing.resume_releases(studio)
    assert studio.supervisor.done.count("release") == 2


def test_a_release_of_what_has_changed_since_is_not_taken_up(studio):
    figure = owned(studio)
    studio.want_build(figure)
    studio.supervisor.dies = True
    releasing.make_release(studio, figure)
    editing.set_edition(studio, figure, Seen(2), Edition(height=PrintMM(40)))
    releasing.resume_releases(studio)
    assert studio.supervisor.done.count("release") == 1
    assert not list(studio.folder.wanted.iterdir())


def renew(studio, number, mesh, name="post.stl", upload="later"):
    path = studio.folder.uploads / f"{upload}.stl"
    path.write_bytes(stl_bytes(mesh))
    return bring_in(studio, path, name, "Post", renews=number)


def test_a_new_sculpt_goes_under_the_same_recipe_and_undo_brings_the_old_one_back(studio):
    number = shelved(studio)
    apply(studio, number, Seen(1), Remedy(label="inches", change=ReadSourceAs(unit="cm", up="y")))
    apply(studio, number, Seen(2), Remedy(label="turn", change=AddSteps(steps=(OrientFaces(),))))
    longer = concatenated(box(6, 6, 12), cylinder(0.2, 8, 24, at=(3, 3, 11)))
    assert renew(studio, number, longer).result == {"figure": number}
    figure, head, _, _ = studio.figure(number)
    assert (head.number, head.says) == (4, "new sculpt post.stl")
    first, second = head.recipe["steps"]
    assert (first["unit"], first["up"], second["kind"]) == ("cm", "y", "orient-faces")
    assert studio.blobs.mesh(studio.source(figure, head).mesh_hash).hash == first["source"]
    # Taken up once more after a crash it is no second change.
    renew(studio, number, longer)
    assert studio.figure(number)[1].number == 4
    studio.undo(number, Seen(4))
    figure, head, _, _ = studio.figure(number)
    assert len(figure.sources) == 2 and studio.source(figure, head) is figure.sources[0]
    assert not list(studio.folder.uploads.iterdir())


def test_a_new_sculpt_of_another_kind_is_read_as_its_file_says(studio):
    number = shelved(studio)
    apply(studio, number, Seen(1), Remedy(label="inches", change=ReadSourceAs(unit="in")))
    renew(studio, number, ball(20, rounds=2), name="post.ply")
    assert studio.figure(number)[1].recipe["steps"][0]["unit"] == "mm"


def test_points_are_looked_for_on_the_new_sculpt_and_lost_ones_are_found(studio):
    number = shelved(studio)
    apply(studio, number, Seen(1), Remedy(label="thicken", change=AddSteps(steps=(THICKEN,))))
    renew(studio, number, box(40, 40, 40))
    studio.want_build(number)
    record = studio.figure(number)[2]
    (lost,) = [finding for finding in record.findings if finding.code == "lost-anchor"]
    place = record.findings.index(lost)
    apply(studio, number, Seen(3), remedy_of(record, place, 0))
    studio.want_build(number)
    again = studio.figure(number)[2]
    assert "lost-anchor" not in {finding.code for finding in again.findings}
