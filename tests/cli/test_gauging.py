"""``ulvet gauge`` on files."""

import json

import numpy as np
import pytest

from tests.cli.conftest import asked
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh


@pytest.fixture
def put(tmp_path):
    def written(mesh):
        path = tmp_path / "figure.stl"
        path.write_bytes(stl_bytes(mesh))
        return path

    return written


def gauged(*args):
    done = asked("gauge", *args, "--json")
    return done.exit_code, json.loads(done.stdout)


def test_walls_places_and_balance_are_told_at_print_size(put, tmp_path):
    path = put(concatenated(box(20, 20, 10), cylinder(0.4, 12, 24, at=(10, 10, 9))))
    code, said = gauged(path, "--scale", "0.5", "--field", tmp_path / "field.npz")
    assert code == 1
    (place,) = said["places"]
    assert place["kind"] == "pin" and place["least_mm"] == pytest.approx(0.4, rel=0.02)
    assert place["extent_mm"] == pytest.approx(5.5, rel=0.1) and f"{place['least_mm']:.2f} mm over" in place["name"]
    assert place["point"][2] > 5
    assert place["stops"] and place["limit_mm"] == 0.45
    assert said["limits_mm"]["kinds"]["held"] == {"stop": 0.36, "caution": 0.56, "origin": "bench default"}
    assert said["thickness"]["min"] <= said["thickness"]["p01"] <= said["thickness"]["p50"] == 4.0
    assert said["balance"]["tip_angle_deg"] == pytest.approx(np.degrees(np.arctan(5 / 2.52)), rel=0.01)
    assert said["balance"]["level_deg"] == pytest.approx(0, abs=1e-6)
    (limb,) = said["handling"]
    assert limb["lever_mm"] == pytest.approx(5.5, rel=0.03) and limb["section_mm"] == pytest.approx(0.4, rel=0.03)
    assert limb["force_N"] == pytest.approx(55 * np.pi * 0.4**3 / 32 / 5.5, rel=0.1) and limb["snaps"]
    assert said["detail"]["share_lost"] == 0 and said["use"]["push_N"] == 1
    field = np.load(tmp_path / "field.npz")
    assert len(field["thickness"]) == len(field["ray"]) == len(field["kind"]) == len(field["vertices"])
    assert field["vertices"][:, 2].max() == pytest.approx(10.5) and field["beyond"].any()
    code, larger = gauged(path, "--scale", "2", "--use", "play")
    assert code == 0 and larger["handling"][0]["snaps"]
    # Twice the size bears four times as much.
    assert larger["handling"][0]["force_N"] == pytest.approx(16 * limb["force_N"], rel=0.05)


def test_what_cannot_be_measured_is_said(put):
    block = box(10, 10, 0.3)
    inward = gauged(put(Mesh(block.vertices, block.faces[:, ::-1])))[1]
    assert inward["places"][0]["least_mm"] == pytest.approx(0.3, rel=0.01) and "looks inward" in inward["notes"][0]
    hole = gauged(put(Mesh(ball(6).vertices, ball(6).faces[1:])))[1]
    assert "open in places" in hole["notes"][0]
    alone = gauged(put(Mesh(10 * np.eye(3), np.array([[0, 1, 2]], np.int32))))[1]
    assert alone["thickness"]["min"] is None and alone["balance"] is None
    assert "no wall and no balance" in alone["notes"][-1]
    code, said = gauged(put(block), "--material", "moonstone")
    assert code == 2 and "no material" in said["error"]
