"""Detail that shows and detail that does not, on shapes whose detail is known."""

import numpy as np
import pytest

from tests.shapes import ball, box, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.gauge.detail.detail import detail_of, least_shown_by
from ulvet.core.geometry.mesh import Mesh, scaled
from ulvet.core.geometry.solids import mesh_of, solids_of

SHOWN = least_shown_by(DEFAULT_BENCH.setup(printer_id="lantern-6"))


def grooved(width, depth):
    plate = solids_of(box(30, 30, 4))[0].body
    for k in range(10):
        plate -= solids_of(box(width, 40, depth + 1, at=(2 + 2.6 * k, -5, 4 - depth)))[0].body
    return mesh_of(plate)[0]


@pytest.mark.parametrize("mesh", [box(20, 20, 20), ball(8), ball(1.5), cylinder(3, 10), grooved(0.5, 0.5)])
def test_plain_shapes_and_good_grooves_lose_nothing(mesh):
    assert detail_of(mesh, SHOWN).lost == 0


def test_grooves_too_narrow_are_lost_as_far_as_they_go():
    narrow = detail_of(grooved(0.08, 0.5), SHOWN)
    both_sides = 10 * 2 * 0.5 * 30 / (2 * 30 * 30 + 4 * 30 * 4 + 10 * 2 * 0.5 * 30)
    assert narrow.lost == pytest.approx(both_sides, rel=0.1)
    assert narrow.size == pytest.approx(SHOWN.sunk / 0.08, rel=0.05)


def test_shallow_relief_shows_from_the_size_that_is_told():
    shallow = grooved(1, 0.03)
    progress = detail_of(shallow, SHOWN)
    assert progress.lost > 0.1 and progress.size == pytest.approx(SHOWN.deep / 0.03, rel=0.02)
    assert detail_of(scaled(shallow, progress.size * 1.05), SHOWN).lost == 0


def test_a_filament_printer_shows_less_and_a_flat_sheet_nothing():
    coarse = least_shown_by(DEFAULT_BENCH.setup(printer_id="long-reed-300"))
    assert detail_of(grooved(0.35, 0.5), coarse).lost > 0.1
    assert detail_of(grooved(0.35, 0.5), SHOWN).lost == 0
    waves = ball(12, rounds=6)
    way = waves.vertices / 12
    waves = Mesh(waves.vertices + way * (0.15 * np.sin(24 * way[:, 2]))[:, None], waves.faces)
    assert detail_of(waves, SHOWN).lost < 0.02
    nothing = detail_of(Mesh(np.zeros((3, 3)), np.array([[0, 1, 2]])), SHOWN)
    assert nothing.lost == 0 and nothing.size == 1
