"""The command that lays figures on plates."""

import json

import numpy as np
import pytest
import trimesh

from tests.cli.conftest import asked
from tests.shapes import box, cylinder
from ulvet.core.formats.stl import stl_bytes


@pytest.fixture
def parts(tmp_path):
    paths = [tmp_path / "block.stl", tmp_path / "round.stl"]
    for path, mesh in zip(paths, (box(40, 20, 12, at=(300, -50, 7)), cylinder(9, 12)), strict=True):
        path.write_bytes(stl_bytes(mesh))
    return paths


def test_copies_are_laid_on_plates_that_are_written_as_they_lie(parts, tmp_path):
    done = asked("plates", *parts, "-o", tmp_path / "out", "--printer", "lantern-6", "--count", "5", "--json")
    assert done.exit_code == 0
    plates = json.loads(done.output)["plates"]
    assert sum(len(plate["parts"]) for plate in plates) == 10
    for plate in plates:
        held = trimesh.load(tmp_path / "out" / plate["file"])
        assert held.bounds[0][2] == pytest.approx(0, abs=1e-4)
        assert (held.bounds[0] >= -1e-3).all()
        assert (held.bounds[1] <= np.array([132, 74, 165]) + 1e-3).all()
        assert held.body_count == len(plate["parts"])
        assert plate["material_ml"] == pytest.approx(held.volume / 1000, rel=0.02)
        assert plate["seconds"] > 0
    assert (
        len(json.loads(asked("plates", *parts, "-o", tmp_path / "few", "--most", "1", "--json").output)["plates"]) == 2
    )


def test_what_fits_no_plate_is_refused_and_nothing_written(parts, tmp_path):
    long = tmp_path / "long.stl"
    long.write_bytes(stl_bytes(box(200, 20, 5)))
    done = asked("plates", long, *parts, "-o", tmp_path / "out", "--printer", "lantern-6", "--json")
    assert done.exit_code == 2
    assert "long.stl does not fit the plate of Lantern 6" in json.loads(done.output.splitlines()[0])["error"]
    assert not (tmp_path / "out").exists()
