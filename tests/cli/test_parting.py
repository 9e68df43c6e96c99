"""The command that cuts a figure into parts."""

import json

import numpy as np
import pytest
import trimesh
from typer.testing import CliRunner

from tests.shapes import ball, cylinder
from ulvet.cli import app
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, volume


def run(*words):
    return CliRunner().invoke(app, [str(word) for word in words])


def written(tmp_path, mesh):
    path = tmp_path / "float.stl"
    path.write_bytes(stl_bytes(mesh))
    return path


def test_a_figure_is_cut_keyed_and_told_of(tmp_path):
    path = written(tmp_path, ball(12, at=(3, 0, 0), rounds=5))
    done = run("part", path, "-o", tmp_path / "out", "--plane", "0,0,2,2", "--fit-class", "slide", "--json")
    said = json.loads(done.output)
    assert done.exit_code == 0
    whole = 0.0
    for part in said["parts"]:
        held = trimesh.load(tmp_path / "out" / part["file"])
        assert held.is_watertight and "Lantern 6" in part["fits"]
        assert held.volume == pytest.approx(part["volume_mm3"], rel=1e-4)
        assert part["size_mm"] == pytest.approx(list(np.ptp(held.vertices, axis=0)), abs=1e-3)
        whole += held.volume
    assert whole == pytest.approx(volume(ball(12, rounds=5)), rel=0.02)
    (joint,) = said["joints"]
    # A plane through 1 mm: its distance is counted in lengths of its own normal.
    assert joint["area_mm2"] == pytest.approx(np.pi * (144 - 1), rel=0.2)
    assert joint["gap_min_mm"] == pytest.approx(0.10, abs=0.02)
    assert joint["overlap_mm3"] < 1e-3 * joint["area_mm2"]
    assert (joint["ways_round"], joint["insertion"]["free"]) == (1, True)
    assert joint["opens_N"] > 10
    assert [step["parts"] for step in said["order"]] == [["lower figure"], ["upper figure"]]


def test_boxes_pins_and_words(tmp_path):
    path = written(tmp_path, ball(12, rounds=4))
    done = run("part", path, "-o", tmp_path / "out", "--grid", "13,30,30", "--key", "pin", "--painted")
    assert done.exit_code == 0, done.output
    assert "pin 1" in done.output and "opens at about" in done.output
    assert len(list((tmp_path / "out").iterdir())) >= 3


@pytest.mark.parametrize(
    ("words", "why"),
    [
        ((), "Nothing to cut by"),
        (("--plane", "0,0,1"), "is not 4 numbers"),
        (("--plane", "0,0,0,1"), "a direction that has a length"),
        (("--plane", "0,0,1,99"), "stays whole"),
        (("--grid", "1,1,1"), "at least 5 mm"),
        (("--grid", "90,90,90"), "fits one box"),
        (("--plane", "0,0,1,2", "--setting", "none"), "no setting"),
    ],
)
def test_what_cannot_be_cut_is_refused_and_nothing_is_written(tmp_path, words, why):
    path = written(tmp_path, ball(8, rounds=3))
    done = run("part", path, "-o", tmp_path / "out", *words)
    assert done.exit_code == 2 and why in done.output
    assert not (tmp_path / "out").exists()


def test_an_open_figure_and_one_too_thin_for_keys_are_told(tmp_path):
    bar = cylinder(3, 20)
    opened = written(tmp_path, Mesh(bar.vertices, bar.faces[4:]))
    done = run("part", opened, "-o", tmp_path / "out", "--plane", "0,0,1,10")
    assert done.exit_code == 2 and "mend it there first" in done.output
    thin = written(tmp_path, cylinder(0.8, 20))
    done = run("part", thin, "-o", tmp_path / "thin", "--plane", "0,0,1,10", "--json")
    said = json.loads(done.output)
    assert "key-too-near" in [one["code"] for one in said["findings"]] and said["joints"][0]["keys"] == 0
