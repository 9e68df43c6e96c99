"""``ulvet join``, ``ulvet stamp`` and ``ulvet mend`` on files."""

import json
from io import BytesIO

import numpy as np
import pytest
from PIL import Image

from tests.cli.conftest import asked
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.geometry.topology import edges_of, is_watertight


@pytest.fixture
def files(tmp_path):
    def put(name, data):
        (tmp_path / name).write_bytes(data)
        return tmp_path / name

    image = Image.new("L", (64, 64), 255)
    image.paste(0, (16, 16, 48, 48))
    picture = BytesIO()
    image.save(picture, "PNG")
    return {
        "block": put("block.stl", stl_bytes(box(20, 20, 10))),
        "peg": put("peg.stl", stl_bytes(cylinder(2, 10, 96, at=(10, 10, 7)))),
        "far": put("far.stl", stl_bytes(ball(3, (50, 0, 0)))),
        "mark": put("mark.png", picture.getvalue()),
        "out": tmp_path / "out.stl",
    }


def test_join_measures_and_writes_a_closed_file(files):
    done = asked("join", files["block"], files["peg"], "-o", files["out"], "--json")
    said = json.loads(done.stdout)
    assert done.exit_code == 0
    assert said["overlap_mm"] == pytest.approx(3, rel=0.01)
    assert said["neck_mm2"] == pytest.approx(np.pi * 4, rel=0.01)
    assert said["neck_mm"] == pytest.approx(4, rel=0.01)
    assert said["sealed_mm3"] == 0
    rounded = json.loads(asked("join", files["block"], files["peg"], "-o", files["out"], "--blend", 1, "--json").stdout)
    assert rounded["volume_mm3"] > said["volume_mm3"] + 2
    assert rounded["grid_mm"] == pytest.approx(1 / 6)
    assert is_watertight(edges_of(read_mesh(files["out"])))


def test_stamp_measures_and_writes_a_closed_file(files):
    given = ("--point", "10,10,10", "--normal", "0,0,2", "--width", 6, "--depth", 0.5)
    said = json.loads(asked("stamp", files["block"], files["mark"], "-o", files["out"], *given, "--json").stdout)
    assert said["depth_min_mm"] == pytest.approx(0.5, rel=0.05)
    assert said["depth_max_mm"] == pytest.approx(0.5, rel=0.05)
    assert said["back_moved_mm"] == 0
    written = read_mesh(files["out"])
    assert said["triangles"] == len(written.faces)
    assert np.ptp(written.vertices[:, 2]) == pytest.approx(10.5, abs=0.01)
    assert is_watertight(edges_of(written))
    asked("stamp", files["block"], files["mark"], "-o", files["out"], *given, "--sunk")
    assert np.ptp(read_mesh(files["out"]).vertices[:, 2]) == pytest.approx(10)


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("join", "block", "far"), "lie between them"),
        (("join", "block", "mark"), "."),
        (("join", "block", "peg", "--blend", -1), "radius"),
        (("stamp", "block", "peg"), "PNG or an SVG"),
        (("stamp", "block", "mark", "--normal", "0,0,0"), "needs a length"),
        (("stamp", "block", "mark", "--point", "1,2"), "three numbers"),
        (("stamp", "block", "mark", "--point", "90,10,10"), "no surface"),
        (("stamp", "block", "mark", "--depth", 9, "--sunk"), "too thin"),
    ],
)
def test_what_cannot_be_done_is_one_sentence_and_writes_nothing(files, given, says):
    usual = {"--point": "10,10,10", "--normal": "0,0,1", "--width": 6, "--depth": 0.5} if given[0] == "stamp" else {}
    words = [files.get(word, word) for word in given]
    filled = [word for name, value in usual.items() if name not in given for word in (name, value)]
    done = asked(*words, "-o", files["out"], *filled, "--json")
    assert done.exit_code == 2
    assert says in json.loads(done.stdout)["error"]
    assert not files["out"].exists()


def test_mend_makes_a_file_sound_and_counts_what_was_wrong(files):
    broken = box(20, 20, 10)
    files["block"].write_bytes(stl_bytes(Mesh(broken.vertices, broken.faces[1:])))
    done = asked("mend", files["block"], "-o", files["out"], "--json")
    said = json.loads(done.stdout)
    assert done.exit_code == 0
    assert said["before"]["open-edges"] == 3 and not any(said["after"].values())
    assert said["before"].keys() == said["after"].keys()
    receipt = said["receipt"]
    assert (receipt["holes_closed"], receipt["method"], receipt["max_move_mm"]) == (1, "exact", 0)
    assert receipt["area_added_mm2"] in (pytest.approx(200), pytest.approx(100))
    assert receipt["volume_after_mm3"] == pytest.approx(4000)
    assert is_watertight(edges_of(read_mesh(files["out"])))
    first = files["out"].read_bytes()
    asked("mend", files["out"], "-o", files["block"])
    assert files["block"].read_bytes() == first


@pytest.mark.parametrize("ending", ["stl", "obj"])
def test_mend_sets_down_what_a_file_would_blur_where_it_lies_and_says_so(files, tmp_path, ending):
    far = ball(0.1, (1e6, -1e6, 1e6))
    source, out = tmp_path / "far.obj", tmp_path / f"near.{ending}"
    source.write_text(
        "".join(f"v {x:.7f} {y:.7f} {z:.7f}\n" for x, y, z in far.vertices)
        + "".join(f"f {a} {b} {c}\n" for a, b, c in far.faces[1:] + 1),
        "utf-8",
    )
    done = asked("mend", source, "-o", out, "--json")
    said = json.loads(done.stdout)
    assert done.exit_code == 0 and said["before"]["open-edges"] == 3 and not any(said["after"].values())
    assert said["receipt"]["set_down_mm"] == [-1e6, 1e6, -1e6]
    mended = read_mesh(out)
    assert is_watertight(edges_of(mended)) and volume(mended) == pytest.approx(volume(far), rel=1e-3)
    assert "set down by -1,000,000 x 1,000,000 x -1,000,000 mm" in asked("mend", source, "-o", out).stdout


def test_mend_counts_gaps_that_a_printer_would_close(files):
    files["block"].write_bytes(stl_bytes(concatenated(box(20, 20, 5), box(20, 20, 5, at=(0, 0, 5.08)))))
    said = json.loads(asked("mend", files["block"], "-o", files["out"], "--json").stdout)
    assert said["before"]["thin-gap"] == said["after"]["thin-gap"] == 1


def test_mend_refuses_what_has_no_inside_and_writes_nothing(files):
    flat = box(20, 20, 10)
    files["block"].write_bytes(stl_bytes(Mesh(flat.vertices, flat.faces[:1])))
    done = asked("mend", files["block"], "-o", files["out"])
    assert done.exit_code == 2 and "nothing was changed" in done.stderr
    assert asked("mend", files["peg"], "-o", files["out"], "--pitch", "0").exit_code == 2
    assert not files["out"].exists()
