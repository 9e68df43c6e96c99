"""Stand as a station: its findings, its place in a build, and files stood without a page."""

import json
from itertools import pairwise

import numpy as np
import pytest
from typer.testing import CliRunner

from tests.core.test_stand import RESIN, hook, on_plate, unheld
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.cli import app
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import AskedSize, Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.files.as_it_lies import layers_of_file
from ulvet.core.files.stand import stand_file
from ulvet.core.findings.finding import SetStep, Severity
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.obj import obj_bytes
from ulvet.core.formats.read import read_file, read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.write import bytes_for
from ulvet.core.geometry.mesh import Mesh, bounds, scaled, translated, volume
from ulvet.core.layers.raster import raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.recipe.stance import Contact, Stance
from ulvet.core.recipe.step import Part
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files
from ulvet.core.stand import steps
from ulvet.core.stand.check import check_stand
from ulvet.core.stand.clearance_grid import clearance_grid_of
from ulvet.core.stand.steps import Orient, OrientReceipt, ShowSide, Support, WayTaken

STANDING = (Orient(up=(0.3, 0.1, 1.0)), Support())


def stood(mesh, *steps, edition=None):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))
    return build_figure(recipe, edition or Edition(), {mesh.hash: mesh})


def codes(build):
    return {finding.code: finding for finding in build.findings}


# Findings


def test_what_a_figure_wants_is_offered_and_then_gone():
    bare = codes(stood(hook()))["island"]
    assert [remedy.label for remedy in bare.remedies] == ["Lean it the best way and hold it", "Hold it as it stands"]
    for remedy in bare.remedies:
        assert "island" not in codes(stood(hook(), *remedy.change.steps))


def test_contacts_on_the_side_that_shows_are_told_at_their_place():
    build = stood(hook(), ShowSide(direction=(0, 0, -1)), Orient(up=(0, 0, 1)), Support())
    found = codes(build)["supports-show"]
    assert found.severity is Severity.CAUTION
    # The bar's foot, where an island begins: in figure axes, whatever the lift.
    assert any(abs(place.point[2] - 8) < 0.1 and 17 <= place.point[0] + 10 <= 20 for place in found.places)


def test_struts_are_told_and_held():
    walls = box(17, 17, 17, (1.5, 1.5, 1.5))
    shut = concatenated(box(20, 20, 20), Mesh(walls.vertices, walls.faces[:, ::-1]), ball(2, (10, 10, 10)))
    found = codes(stood(shut, Support()))
    assert found["struts-on-figure"].count == 1
    assert "island" not in found


def test_a_load_that_no_tip_bears_is_told_where_it_is_with_closer_contacts_as_remedy():
    contacts = tuple(Contact(point=(x, 0, 5), tip_mm=PrintMM(0.6), load_N=load) for x, load in ((0, 0.5), (3, 2.0)))
    stance = Stance(up=(0, 0, 1), lift=PrintMM(5), contacts=contacts)
    (found,) = check_stand(Part("figure", box(8, 8, 8, (-4, -4, 0)), stance), 0.5, RESIN)
    assert (found.code, found.count, found.measured) == ("weak-hold", 1, 2.0)
    assert found.where.point == pytest.approx((6, 0, 0))  # at half size, three print mm are six of the figure
    change = found.remedies[0].change
    assert isinstance(change, SetStep) and change.kind == "support"
    assert change.values["spacing"] < DEFAULT_BENCH.setup().supports.spacing


def test_a_wide_underside_is_held_by_as_many_as_bear_it():
    bolt = concatenated(cylinder(2, 20), cylinder(20, 2, at=(0, 0, 19)))
    build = stood(bolt, Support(spacing=PrintMM(15)))
    assert "weak-hold" not in codes(build)
    loads = [contact.load_N for contact in build.facts[0].stance.contacts]
    assert sum(loads) >= 0.9 * np.pi * 20**2 * DEFAULT_BENCH.setup().supports.pull


def test_a_figure_too_long_to_stand_is_turned_so_that_it_fits():
    build = stood(cylinder(5, 170))
    found = codes(build)["too-large-for-printer"]
    assert found.remedies[0].label == "Turn it so that it fits, and hold it"
    assert "too-large-for-printer" not in codes(stood(cylinder(5, 170), *found.remedies[0].change.steps))


# In a build


def test_supports_stay_in_print_mm_and_are_made_anew_at_every_size():
    small, large = (stood(hook(), *STANDING, edition=Edition(factor=factor)) for factor in (1.0, 2.0))
    for build in (small, large):
        assert min(contact.tip_mm for contact in build.facts[0].stance.contacts) >= 0.2
        assert build.facts[0].stance.lift == pytest.approx(5)
    assert len(large.facts[0].stance.contacts) > len(small.facts[0].stance.contacts)
    assert large.parts[0].mesh.hash == small.parts[0].mesh.hash, "the figure itself does not turn or grow"


@pytest.mark.parametrize("threads", [1, 3])
def test_threads_and_repetition_change_no_byte(threads, monkeypatch):
    mesh = hook()
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x"), Orient(), Support(lift=PrintMM(4))))
    one = run_recipe(recipe, {mesh.hash: mesh}, Edition()).parts[0]
    for module in ("layers.raster", "stand.screening", "stand.orientation", "stand.clearance_grid"):
        monkeypatch.setattr(f"ulvet.core.{module}.THREADS", threads)
    two = run_recipe(recipe, {mesh.hash: mesh}, Edition()).parts[0]
    assert one.stance == two.stance
    assert one.supports.hash == two.supports.hash


def test_a_release_holds_the_figure_as_it_lies_in_the_printer():
    build = stood(hook(), *STANDING)
    files = {file.name: file for file in release_files(CheckedFigure.of("Hook", build))}
    path = "hook_40.0mm_supported.stl"
    assert path in files and b"supports" not in files["hook_recipe.json"].data[:10]
    manifest = json.loads(files["hook_manifest.json"].data)
    assert manifest["parts"][0]["stance"]["contacts"]


# Room


def test_the_air_about_a_block_is_known_and_a_way_down_keeps_clear_of_it():
    table = concatenated(box(30, 30, 3, (0, 0, 20)), box(4, 4, 20, (13, 13, 0)))
    stack = raster_layers(table, 0.05, 0.05)
    room = clearance_grid_of(stack, 0.0, 0.8)
    beside = np.array([[20.0, 15.0, 10.0]])
    assert room.air_at(beside)[0] == pytest.approx(3.0, abs=0.3)
    assert room.air_at(np.array([[15.0, 15.0, 10.0]]))[0] == 0
    assert np.isinf(room.cost_at(np.array([[15.0, 15.0, 30.0]]))[0])  # above the table there is no way down
    above = np.array([15.0, 19.0, 18.4])
    way = room.way_down(above)
    assert way[-1, 2] == 0 and (way[0] == above).all()
    steps = np.concatenate([a + (b - a) * np.linspace(0, 1, 60)[:, None] for a, b in pairwise(way)])
    assert room.air_at(steps[5:]).min() >= 0.5


# Files


def test_a_file_is_stood_and_what_is_written_has_no_island(tmp_path):
    path, out = tmp_path / "hook.stl", tmp_path / "held.stl"
    dumb_bell = concatenated(ball(6), ball(5, at=(14, 3, 2)), ball(3, at=(7, 1, 1)))
    path.write_bytes(stl_bytes(translated(dumb_bell, np.array([100.0, -40, 7]))))
    data, said = stand_file(path, out, RESIN, (0, -1, 0), "auto")
    out.write_bytes(data)
    assert said["unheld_islands"] == 0 and said["contacts"] and said["fits"]
    assert said["directions"] >= 500
    again, _ = layers_of_file(out, RESIN)
    assert again["islands"] == []
    low, high = bounds(read_mesh(out))
    assert low[2] == pytest.approx(0, abs=1e-6)
    assert high[2] == pytest.approx(said["height_mm"], abs=1e-3)
    assert said["resin_ml"] - volume(dumb_bell) / 1000 < said["support_volume_ml"] + 0.1


def test_kept_as_it_lies_nothing_turns(tmp_path):
    path = tmp_path / "hook.stl"
    path.write_bytes(stl_bytes(hook()))
    data, said = stand_file(path, tmp_path / "held.ply", RESIN, None, "keep")
    assert said["lean_degrees"] == 0 and data.startswith(b"ply")
    with pytest.raises(UnreadableFile, match=r"\.stl, \.ply, \.obj, \.3mf, \.glb"):
        stand_file(path, tmp_path / "held.doc", RESIN, None, "keep")


def test_the_command_stands_a_file_and_refuses_what_it_cannot(tmp_path):
    path, out = tmp_path / "hook.stl", tmp_path / "held.3mf"
    path.write_bytes(stl_bytes(hook()))
    run = CliRunner().invoke(app, ["stand", str(path), "-o", str(out), "--orient", "keep", "--json"])
    assert run.exit_code == 0
    assert json.loads(run.stdout)["unheld_islands"] == 0
    assert [piece.name for piece in read_file(out).pieces] == ["figure", "supports"]
    for wrong in (["--show-side", "0,0"], ["--show-side", "0,0,0"], ["--orient", "best"], ["--printer", "none"]):
        before = out.read_bytes()
        run = CliRunner().invoke(app, ["stand", str(path), "-o", str(out), *wrong])
        assert run.exit_code == 2
        assert out.read_bytes() == before


def test_parts_are_written_in_text_by_name(tmp_path):
    text = obj_bytes([("he\nron; x", box(1, 2, 3)), ("", ball(1, rounds=1))]).decode()
    assert [line for line in text.splitlines() if line.startswith("o ")] == ["o he-ron-x", "o part"]
    path = tmp_path / "two.obj"
    path.write_bytes(bytes_for(path, [("a", box(1, 2, 3)), ("b", box(1, 1, 1, (5, 0, 0)))]))
    assert volume(read_mesh(path)) == pytest.approx(7)


def test_a_held_figure_is_held_in_filament_too():
    figure = on_plate(hook(), np.array([0.0, 0, 1]))
    build = stood(figure, Support(), edition=Edition(setting="long-reed-300-matt-filament"))
    assert "island" not in codes(build)
    assert unheld(figure, _Held(build), DEFAULT_BENCH.setup(printer_id="long-reed-300")) == 0


class _Held:
    """A stood part in the place of what ``support_figure`` gives."""

    def __init__(self, build):
        self.lift, self.supports = (
            build.parts[0].stance.lift,
            translated(build.parts[0].supports, np.array([10.0, 2, 0])),
        )


def test_long_steps_say_how_far_they_are_and_never_go_back():
    figure = concatenated(ball(6, at=(0, 0, 20)), cylinder(1, 22, 24))
    recipe = Recipe(steps=(BringIn(source=figure.hash, name="lolly.stl"), Orient(), Support()))
    heard = []
    run_recipe(recipe, {figure.hash: figure}, Edition(), progress=lambda share, says: heard.append((share, says)))
    shares = [share for share, _ in heard]
    assert shares == sorted(shares) and shares[0] == 0 and shares[-1] < 1
    of_orient = [says for _, says in heard if says.startswith("step 2 of 3: orient, ")]
    assert len(set(of_orient)) >= 5


# A way that was taken


def test_a_way_that_was_taken_holds_for_a_new_sculpt_and_is_sought_anew_for_another_size(monkeypatch):
    sought = []
    known = steps.orient_figure
    monkeypatch.setattr(steps, "orient_figure", lambda *asked: sought.append(1) or known(*asked))

    def run(mesh, orient, edition):
        recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), ShowSide(direction=(0, -1, 0)), orient))
        done = run_recipe(recipe, {mesh.hash: mesh}, edition)
        return done.parts[0].stance, done.receipts[2], orient.written_down(done.receipts[2])

    first, receipt, orient = run(hook(), Orient(), Edition(height=PrintMM(30)))
    assert len(sought) == 1 and len(orient.taken) == 1
    assert run(hook(), orient, Edition(height=PrintMM(30))) == (first, receipt, orient)
    taller = scaled(hook(), 1.2)
    assert run(taller, orient, Edition(height=PrintMM(30)))[0] == first and len(sought) == 1
    for number, other in enumerate(
        (Edition(height=PrintMM(40)), Edition(height=PrintMM(30), setting="long-reed-300-matt-filament")), 2
    ):
        run(taller, orient, other)
        assert len(sought) == number
    # Asked anew, nothing that was taken before counts.
    assert Orient().taken == () and run(taller, Orient(), Edition(height=PrintMM(30))) and len(sought) == 4


def test_ways_for_several_sizes_are_written_beside_each_other():
    ways = [
        WayTaken(part="figure", up=(0, 0, 1), spin=0, screened=9, size=AskedSize(height=PrintMM(height), factor=None),
                 setting="lantern-6-tough-grey")
        for height in (28, 75)
    ]  # fmt: skip
    small = Orient().written_down(OrientReceipt(ways=(ways[0],)))
    both = small.written_down(OrientReceipt(ways=(ways[1],)))
    assert both.taken == tuple(ways)
    assert both.written_down(OrientReceipt(ways=(ways[0],))) is both
    turned = ways[0].model_copy(update={"up": (0, 1, 0)})
    assert both.written_down(OrientReceipt(ways=(turned,))).taken == (ways[1], turned)


def test_what_seeks_a_way_to_stand_proposes_the_front_as_the_side_that_shows_unless_another_was_named():
    lean, hold = codes(stood(hook()))["island"].remedies
    assert [step.kind for step in lean.change.steps] == ["show-side", "orient", "support"]
    assert lean.change.steps[0].direction == (0, -1, 0) and "front" in lean.cost.says
    assert [step.kind for step in hold.change.steps] == ["support"]
    lean, _ = codes(stood(hook(), ShowSide(direction=(1, 0, 0))))["island"].remedies
    assert [step.kind for step in lean.change.steps] == ["orient", "support"]
