import json

import numpy as np
import pytest
from typer.testing import CliRunner

from tests.shapes import ball, box
from ulvet.cli.common import app
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, bounds, translated, volume
from ulvet.core.geometry.solids import mesh_of, solids_of


def run(*arguments):
    done = CliRunner().invoke(app, [*map(str, arguments), "--json"])
    return done.exit_code, json.loads(done.stdout)


@pytest.fixture
def round_one(tmp_path):
    path = tmp_path / "ball.stl"
    path.write_bytes(stl_bytes(translated(ball(12), np.array([40.0, 0, 12]))))
    return path


def test_a_file_is_hollowed_where_it_lies_and_opened_at_both_ends(round_one, tmp_path):
    out = tmp_path / "shell.stl"
    code, said = run("hollow", round_one, "-o", out, "--wall", 2)
    assert code == 0
    assert said["wall"]["p50"] == pytest.approx(2, rel=0.03)
    assert said["wall"]["min"] > 1.8
    (space,) = said["spaces"]
    assert space["volume_ml"] == pytest.approx(4 / 3 * np.pi, rel=0.02)
    assert said["saved_ml"] == pytest.approx(space["volume_ml"], rel=0.02)
    assert len(space["openings"]) == 2
    assert space["left_ml"] < 0.02
    made = read_mesh(out)
    assert bounds(made) == pytest.approx(bounds(read_mesh(round_one)), abs=0.1)
    assert volume(made) < volume(read_mesh(round_one)) - 900 * space["volume_ml"]


def test_at_another_height_the_wall_stays_and_the_room_grows(round_one, tmp_path):
    code, said = run("hollow", round_one, "-o", tmp_path / "big.stl", "--wall", 2, "--height", 48, "--drain", "none")
    assert code == 0
    assert said["wall"]["p50"] == pytest.approx(2, rel=0.03)
    assert said["spaces"][0]["volume_ml"] == pytest.approx(4 / 3 * np.pi * 22**3 / 1000, rel=0.02)
    assert said["spaces"][0]["openings"] == []
    assert said["spaces"][0]["left_ml"] == pytest.approx(said["spaces"][0]["volume_ml"], rel=0.03)


def test_in_filament_nothing_is_opened(round_one, tmp_path):
    setting = "long-reed-300-matt-filament"
    _, said = run("hollow", round_one, "-o", tmp_path / "f.stl", "--wall", 2, "--setting", setting)
    assert said["spaces"][0]["openings"] == []


@pytest.mark.parametrize(
    ("mesh", "options", "says"),
    [
        (Mesh(ball(5).vertices, ball(5).faces[1:]), ["--wall", 1], "does not close"),
        (ball(5), ["--wall", 4.9], "thick enough"),
        (ball(5), ["--wall", 0], "length from"),
        (ball(5), ["--wall", 1, "--height", -3], "size"),
        (ball(5), ["--wall", 1, "--setting", "none-such"], "none-such"),
    ],
    ids=["open", "thicker than it", "no wall", "no height", "no setting"],
)
def test_what_cannot_be_done_is_said_and_nothing_is_written(mesh, options, says, tmp_path):
    path, out = tmp_path / "in.stl", tmp_path / "out.stl"
    path.write_bytes(stl_bytes(mesh))
    code, said = run("hollow", path, "-o", out, *options)
    assert code == 2
    assert says in said["error"]
    assert not out.exists()


def test_layers_tell_cups_and_what_is_trapped_where_the_file_has_them(tmp_path):
    whole, bowl = solids_of(box(24, 24, 14, at=(50, 0, 0)), box(16, 16, 10, at=(54, 4, 4)))
    path = tmp_path / "bowl.stl"
    path.write_bytes(stl_bytes(mesh_of(whole.body - bowl.body)[0]))
    code, said = run("layers", path)
    (cup,) = said["cups"]
    assert cup["volume_ml"] == pytest.approx(2.56, rel=0.03)
    assert (cup["layer"], cup["to_layer"]) == (80, 279)
    assert 54 < cup["point"][0] < 70 and cup["point"][2] == pytest.approx(4, abs=0.1)
    assert cup["force_N"] > 3
    x, y, z = cup["vent"]
    assert max(abs(x - 62), abs(y - 12)) == pytest.approx(12, abs=0.1)
    assert 4 < z < 6
    assert said["trapped"] == []  # it hangs with its mouth down
    assert code == 0
