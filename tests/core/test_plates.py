"""Plates: nothing overlaps, margins are kept, alike heights lie together, and the sums are those worked out by hand."""

from datetime import datetime, timedelta

import numpy as np
import pytest
import shapely
from shapely import affinity

from tests.depth import of_all
from tests.shapes import box
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.packing import Lying, Room, pack, place_on
from ulvet.core.plates.plate import Risk, piece_of, plates_of, told_of
from ulvet.core.plates.shadow import shadow_of
from ulvet.core.plates.sums import PlannedPlate, days_plan, sums_of

RESIN = DEFAULT_BENCH.setup()
FILAMENT = DEFAULT_BENCH.setup(setting_id="long-reed-300-matt-filament")
ROOM = Room(wide=100, deep=70, tall=150, margin=2.0)


def cross(rng, tall=None):
    """A cross of two bars, whose shadow an independent library knows."""
    a, b, c, d = rng.uniform(6, 30, 4)
    tall = tall or float(rng.uniform(5, 40))
    bars = [box(a, b, tall, at=(-a / 2, -b / 2, 0)), box(c, d, tall, at=(2 - c / 2, -1 - d / 2, 0))]
    outline = shapely.union_all([shapely.box(-a / 2, -b / 2, a / 2, b / 2),
                                 shapely.box(2 - c / 2, -1 - d / 2, 2 + c / 2, -1 + d / 2)])  # fmt: skip
    (one, other) = solids_of(*bars)
    return mesh_of(one.body + other.body)[0], outline


def lain(outline, shadow, one):
    about = affinity.translate(outline, *(-shadow.middle))
    return affinity.translate(affinity.rotate(about, one.turn, origin=(0, 0)), one.x, one.y)


def seen(mesh):
    return shadow_of(raster_layers(mesh, 0.2, 0.05))


@pytest.mark.parametrize("seed", range(of_all(12)))
def test_parts_never_overlap_keep_their_margin_and_stay_on_the_plate(seed):
    rng = np.random.default_rng(seed)
    made = [cross(rng) for _ in range(14)]
    shadows = [seen(mesh) for mesh, _ in made]
    plates, unfit = pack(shadows, ROOM)
    assert unfit == []
    assert sorted(one.number for plate in plates for one in plate) == list(range(14))
    for plate in plates:
        outlines = [lain(made[one.number][1], shadows[one.number], one) for one in plate]
        for k, outline in enumerate(outlines):
            assert shapely.box(0, 0, ROOM.wide, ROOM.deep).buffer(0.01).contains(outline)
            for other in outlines[k + 1 :]:
                assert outline.distance(other) >= ROOM.margin - 0.01


@pytest.mark.parametrize("seed", range(of_all(6)))
def test_shadows_are_packed_denser_than_their_boxes_on_shelves(seed):
    rng = np.random.default_rng(100 + seed)
    shadows = [seen(cross(rng, tall=10)[0]) for _ in range(24)]
    plates, _ = pack(shadows, ROOM)
    assert len(plates) <= shelves([np.ptp(np.argwhere(s.solid), axis=0) * s.pixel + ROOM.margin for s in shadows])


def shelves(sizes):
    """Plates that the usual shelves take: deepest first, each on the first shelf with room."""
    plates = [[]]
    for deep, wide in sorted((sorted(size) for size in sizes), reverse=True):
        for plate in plates:
            shelf = next((one for one in plate if one[0] >= deep and one[1] + wide <= ROOM.wide + ROOM.margin), None)
            if shelf is None and sum(one[0] for one in plate) + deep <= ROOM.deep + ROOM.margin:
                shelf = [deep, 0.0]
                plate.append(shelf)
            if shelf is not None:
                shelf[1] += wide
                break
        else:
            plates.append([[deep, wide]])
    return len(plates)


def test_what_the_hand_placed_stays_and_the_rest_finds_room_about_it():
    rng = np.random.default_rng(5)
    made = [cross(rng) for _ in range(8)]
    shadows = [seen(mesh) for mesh, _ in made]
    # Off the grid of cells, and turned by no usual turn.
    by_hand = Lying(3, 51.37, 33.21, 17.0)
    plates, _ = pack(shadows, ROOM, [[by_hand]])
    assert plates[0][0] == by_hand
    own = lain(made[3][1], shadows[3], by_hand)
    for one in plates[0][1:]:
        assert own.distance(lain(made[one.number][1], shadows[one.number], one)) >= ROOM.margin - 0.01
    more = place_on(shadows, ROOM, plates[0], plates[-1][-1].number)
    assert more is None or lain(made[more.number][1], shadows[more.number], more).distance(own) >= ROOM.margin - 0.01


def test_what_is_too_large_or_too_tall_is_said_and_the_rest_is_packed():
    shadows = [seen(box(*size)) for size in ((120, 10, 10), (10, 10, 160), (20, 20, 20))]
    plates, unfit = pack(shadows, ROOM)
    assert unfit == [0, 1]
    assert [[one.number for one in plate] for plate in plates] == [[2]]
    # Turned by a quarter, what is deeper than the plate fits.
    ((turned,),), unfit = pack([seen(box(20, 90, 5))], ROOM)
    assert unfit == []
    assert turned.turn % 180 in (60, 90, 120)


def test_alike_heights_lie_together_and_fewer_parts_on_a_plate_lose_less():
    tall, low = box(30, 30, 60), box(30, 30, 10)
    pieces = [piece_of(str(k), raster_layers(one, RESIN.layer, 0.1), RESIN) for k, one in enumerate([low, tall] * 8)]
    plates, unfit = plates_of(pieces, RESIN)
    assert unfit == []
    heights = [{round(float(pieces[one.number].shadow.tall)) for one in lying} for lying, _ in plates]
    assert sum(len(one) > 1 for one in heights) <= 1
    few, _ = plates_of(pieces, RESIN, Risk(most_parts=3))
    assert max(len(lying) for lying, _ in few) == 3
    assert max(told.lost_ml for _, told in few) < max(told.lost_ml for _, told in plates)


def test_what_a_plate_takes_is_that_worked_out_by_hand():
    block, stick = box(20, 10, 8), box(5, 5, 30)
    pieces = [
        piece_of(name, raster_layers(mesh, RESIN.layer, 0.1), RESIN) for name, mesh in (("b", block), ("s", stick))
    ]
    told = told_of(pieces, RESIN)
    times, layers = RESIN.setting.times, round(30 / RESIN.layer)
    first = times.first_layers
    assert told.layers == layers
    assert told.seconds == pytest.approx(
        first * times.seconds_per_first_layer + (layers - first) * times.seconds_per_layer
    )
    assert told.material_ml == pytest.approx((1600 + 750) / 1000, rel=0.02)
    assert told.peak_mm2 == pytest.approx(225, rel=0.02)
    assert told.pull_N == pytest.approx(225 * RESIN.supports.pull, rel=0.02)
    assert told.lost_ml == pytest.approx(0.75, rel=0.03)
    hours = told.seconds / 3600 * RESIN.printer.price_of_hour
    assert told.money == pytest.approx(told.material_ml * RESIN.material.price_per_litre / 1000 + hours)
    flow = [piece_of("b", raster_layers(block, FILAMENT.layer, 0.1), FILAMENT)] * 2
    slow = told_of(flow, FILAMENT)
    speed = FILAMENT.setting.mm3_per_second
    assert slow.seconds == pytest.approx(3200 / speed + slow.layers * FILAMENT.setting.times.layer_change, rel=0.02)
    assert slow.pull_N is None


def planned(number, setup, cleanup):
    told = told_of([piece_of("b", raster_layers(box(20, 10, 8), setup.layer, 0.1), setup)], setup)
    return PlannedPlate(number=number, printer=setup.printer.id, setting=setup.setting.id, process=setup.process,
                        told=told, cleanup_min=cleanup)  # fmt: skip


def test_plates_become_tasks_and_their_sums_are_those_of_the_tasks():
    begins = datetime(2026, 12, 7, 8)
    plates = [planned(1, RESIN, 200.0), planned(2, FILAMENT, 10.0)]
    plan = days_plan(plates, DEFAULT_BENCH, begins, begins + timedelta(days=3))
    after = {task.id: task.after for task in plan.tasks}
    # Resin is washed, dried and cured before it is cleaned up, in goes that somebody can be there for.
    assert after["wash-1"] == ("plate-1",)
    assert after["cure-1"] == ("wash-1",)
    assert [after[name] for name in ("clean-1", "clean-1-2", "clean-1-3")] == [
        ("cure-1",),
        ("clean-1",),
        ("clean-1-2",),
    ]
    assert after["clean-2"] == ("plate-2",)
    assert "wash-2" not in after
    assert [task.due is not None for task in plan.tasks if task.id.startswith("clean-1")] == [False, False, True]
    # Sunday is a day off on the bench.
    assert not any(one.end > one.begin for one in plan.hours if one.weekday == 6)
    sums = sums_of(plates, plan, DEFAULT_BENCH)
    by_hand = sum(task.hands_before for task in plan.tasks if task.id.startswith("clean"))
    assert by_hand == pytest.approx(210)
    assert sums.hands_min == pytest.approx(by_hand + 2 * (10 + 12) + 6)
    wash, cure = (next(one for one in DEFAULT_BENCH.stations if one.does == does) for does in ("wash", "cure"))
    assert sums.waiting_min == pytest.approx(wash.minutes + cure.minutes + 30)
    assert (sums.resin_ml, sums.filament_ml) == pytest.approx((1.6, 1.6), rel=0.03)
    watts = [setup.printer.power * plate.told.seconds for setup, plate in zip((RESIN, FILAMENT), plates, strict=True)]
    assert sums.power_kwh == pytest.approx(sum(watts) / 3.6e6)


def test_an_empty_part_takes_no_room():
    nothing = seen(Mesh(np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.array([[0, 1, 2]], np.int32)))
    plates, unfit = pack([nothing, seen(box(5, 5, 5))], ROOM)
    assert unfit == []
    assert len(plates) == 1
