import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.layers.check import check_layers
from ulvet.core.layers.estimate import estimate_print
from ulvet.core.layers.island_limits import island_dilation
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import TooManyLayers, raster_layers
from ulvet.core.recipe.step import Part

PIXEL, LAYER, LEAST = 0.034, 0.05, 0.02


def stack_of(mesh, pixel=PIXEL):
    return raster_layers(mesh, LAYER, pixel)


def islands_of(mesh):
    return find_islands(stack_of(mesh), PIXEL, LEAST)


@pytest.mark.parametrize(
    ("mesh", "area"),
    [
        (box(12, 9, 5), 108),
        (cylinder(4, 5, 256), np.pi * 16),
        (tube(5, 4, 5, 256), np.pi * 9),
        (concatenated(box(10, 10, 5), box(10, 10, 5, at=(5, 0, 0))), 150),
        (concatenated(box(10, 10, 5), box(4, 4, 5, at=(3, 3, 0))), 100),
    ],
    ids=["box", "bar", "tube", "overlapping", "one inside another"],
)
def test_the_area_of_every_layer_is_known(mesh, area):
    stack = stack_of(mesh)
    assert stack.count == 100
    # Every outline may be wrong by half a pixel along its length, both ways.
    assert stack.areas == pytest.approx(area, rel=0.005)
    assert not stack.unbalanced.any()


def test_a_cavity_is_empty_and_an_inverted_shell_is_solid():
    cavity = box(6, 6, 3, at=(2, 2, 1))
    hollow = concatenated(box(10, 10, 5), Mesh(cavity.vertices, cavity.faces[:, ::-1]))
    areas = stack_of(hollow).areas
    assert areas[50] == pytest.approx(100 - 36, rel=0.01)
    assert areas[5] == pytest.approx(100, rel=0.01)
    inverted = Mesh(hollow.vertices[:8], hollow.faces[:12, ::-1])
    assert stack_of(inverted).areas[50] == pytest.approx(100, rel=0.01)


def test_the_volume_of_a_ball_comes_out_of_its_layers():
    stack = stack_of(ball(8, rounds=6))
    assert stack.areas.sum() * LAYER == pytest.approx(4 / 3 * np.pi * 512, rel=0.002)


def test_written_rounding_makes_no_layer_of_its_own():
    assert stack_of(box(5, 5, 70.0000003)).count == 1400


def test_where_it_lies_changes_nothing():
    near, far = stack_of(ball(3)), stack_of(ball(3, at=(4096, -2048, 512)))
    assert np.array_equal(near.row, far.row)
    assert far.origin == pytest.approx((4093, -2051))


def test_layers_are_the_same_again():
    mesh = ball(5, rounds=5)
    first, second = stack_of(mesh), stack_of(mesh)
    assert all(np.array_equal(getattr(first, a), getattr(second, a)) for a in ("row", "begin", "end", "starts"))


def test_an_open_surface_is_told_layer_by_layer():
    mesh = box(10, 10, 5)
    side = np.flatnonzero((mesh.vertices[mesh.faces][:, :, 0] == 0).all(axis=1))
    report = check_layers(
        Part("figure", Mesh(mesh.vertices, np.delete(mesh.faces, side, axis=0))), 1.0, DEFAULT_BENCH.setup()
    )
    (finding,) = [f for f in report.findings if f.code == "open-layers"]
    assert finding.count == 100


def test_islands_placed_by_construction_are_all_found_and_no_others():
    rng = np.random.default_rng(5)
    plate, placed = [box(40, 40, 1)], []
    for k in range(60):
        x, y = 2 + 4.5 * (k % 8), 2 + 4.5 * (k // 8)
        z = 2 + rng.uniform(0, 12)
        size = rng.uniform(0.3, 1.2)
        plate.append(box(size, size, size, at=(x, y, z)) if k % 2 else ball(size / 2, at=(x, y, z), rounds=3))
        placed.append((x, y, z if k % 2 else z - size / 2))
    found = islands_of(concatenated(*plate))
    assert len(found) == 60
    for x, y, z in placed:
        assert any(abs(i.x - x) < 1.3 and abs(i.y - y) < 1.3 and abs(i.layer * LAYER - z) < 0.15 for i in found)


def test_what_stands_on_the_plate_leans_or_arches_is_no_island():
    leaning = cylinder(1, 20)
    lean = Mesh(leaning.vertices + leaning.vertices[:, 2:] * np.array([0.9, 0, 0]), leaning.faces)
    arch = concatenated(box(2, 2, 10), box(2, 2, 10, at=(10, 0, 0)), box(12, 2, 2, at=(0, 0, 9)))
    for mesh in (lean, arch, concatenated(box(5, 5, 5), box(5, 5, 5, at=(10, 0, 0)))):
        assert not islands_of(mesh)


def test_a_tip_that_hangs_is_one_island_told_where_it_begins():
    gallows = concatenated(box(2, 2, 20), box(12, 2, 2, at=(0, 0, 18)))
    tip = cylinder(0.8, 6, 32, at=(10, 1, 12.5))
    (island,) = islands_of(concatenated(gallows, tip))
    assert island.layer * LAYER == pytest.approx(12.5, abs=LAYER)
    assert island.x == pytest.approx(10, abs=0.9)


def test_specks_under_the_least_area_are_not_told_and_those_just_over_are():
    plate = box(20, 20, 1)
    for side, count in ((0.10, 0), (0.20, 1)):  # 0.01 and 0.04 mm² against 0.02
        assert len(islands_of(concatenated(plate, box(side, side, 1, at=(5, 5, 4))))) == count


def test_a_growing_point_is_told_once_it_is_large_enough():
    cone = cylinder(3, 6, 48, at=(10, 10, 5))
    point = Mesh(np.where(cone.vertices[:, 2:] == 5, [10, 10, 5], cone.vertices), cone.faces)
    (island,) = islands_of(concatenated(box(20, 20, 1), point))
    assert 5 <= island.layer * LAYER < 5.2  # where it begins
    assert island.area >= LEAST


def test_a_gap_within_the_dilation_still_holds():
    step = concatenated(box(5, 5, 1), box(5, 5, 1, at=(5.06, 0, 1)))
    stack = stack_of(step)
    assert len(find_islands(stack, 0.034, LEAST)) == 1
    assert not find_islands(stack, 0.102, LEAST)


def test_resin_time_follows_height_and_filament_time_volume():
    resin, filament = DEFAULT_BENCH.setup(printer_id="lantern-6"), DEFAULT_BENCH.setup(printer_id="long-reed-300")
    small, tall = box(5, 5, 10), box(5, 5, 20)
    r = [estimate_print(raster_layers(m, 0.05, 0.034), resin) for m in (small, box(20, 20, 10), tall)]
    assert r[0].seconds == r[1].seconds < r[2].seconds
    assert r[0].layers == 200
    assert r[0].seconds == pytest.approx(5 * 36 + 195 * 8.2)
    assert r[0].material_ml == pytest.approx(0.25, rel=0.01)
    assert r[0].money == pytest.approx(0.25 * 42 / 1000, rel=0.01)
    f = [estimate_print(raster_layers(m, 0.16, 0.1), filament) for m in (small, box(20, 20, 10))]
    assert f[1].seconds > 3 * f[0].seconds


def test_a_figure_beyond_reason_is_refused_before_memory_is():
    with pytest.raises(TooManyLayers, match="smaller"):
        stack_of(box(4000, 4000, 4000))


def test_sheets_behind_sheets_without_end_are_refused_before_time_is():
    sheet = box(0.001, 60, 60)
    crowd = Mesh(np.tile(sheet.vertices, (4000, 1)), np.concatenate([sheet.faces + 8 * k for k in range(4000)]))
    with pytest.raises(TooManyLayers, match="surface lies behind surface"):
        stack_of(crowd)


def test_no_island_is_told_where_the_surface_does_not_close_and_every_other_one_is():
    body = ball(8, at=(0, 0, 8), rounds=4)
    beside = body.vertices[body.faces].mean(axis=1)
    hole = (beside[:, 0] > 5) & (np.abs(beside[:, 2] - 8) < 4)
    torn, hanging = Mesh(body.vertices, body.faces[~hole]), box(2, 2, 3, at=(-16, 0, 6))
    setup = DEFAULT_BENCH.setup()
    found = find_islands(
        raster_layers(concatenated(torn, hanging), setup.layer, setup.pixel),
        island_dilation(setup),
        0.02,
    )
    assert [(island.x, island.layer * setup.layer) for island in found] == [
        (pytest.approx(-15, abs=1.1), pytest.approx(6, abs=0.1))
    ]
