"""Plates: nothing overlaps, margins are kept, alike heights lie together, and the sums are those worked out by hand."""

from datetime import datetime, timedelta

import numpy as np
import pytest
import shapely
from shapely import affinity

from tests.depth import of_all
from tests.shapes import box
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.blob_hash import BlobHash
from ulvet.core.finish.order import WorkRow
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.layers.raster import raster_layers
from ulvet.core.plates.conflicts import conflicts_of
from ulvet.core.plates.outline import outlines_of
from ulvet.core.plates.packing import Lying, Room, pack, place_on
from ulvet.core.plates.planning import WantedPiece, alike_setups, packed, planned_plate
from ulvet.core.plates.plate import Risk, piece_of, plates_of, told_of
from ulvet.core.plates.shadow import shadow_of
from ulvet.core.plates.sums import FailRate, sums_of
from ulvet.core.plates.tasks import PaintedLine, PlannedPlate, days_plan
from ulvet.core.plates.wanted import HandPlate, Move, Placed
from ulvet.core.plates.winning import changes_to_try, in_setup, scaled

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
    assert {one.says for one in sums.hands} == {"plates begun and taken off", "washing and curing", "supports off"}
    assert sums.waiting_min == pytest.approx(wash.minutes + cure.minutes + 30)
    assert (sums.resin_ml, sums.filament_ml) == pytest.approx((1.6, 1.6), rel=0.03)
    watts = [setup.printer.power * plate.told.seconds for setup, plate in zip((RESIN, FILAMENT), plates, strict=True)]
    assert sums.power_kwh == pytest.approx(sum(watts) / 3.6e6)


def test_an_empty_part_takes_no_room():
    nothing = seen(Mesh(np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0]]), np.array([[0, 1, 2]], np.int32)))
    plates, unfit = pack([nothing, seen(box(5, 5, 5))], ROOM)
    assert unfit == []
    assert len(plates) == 1


def wanted(count, size=(20, 10, 8), setup=RESIN, line=0, **more):
    layers = BlobHash("a" * 64)
    piece = piece_of("block", raster_layers(box(*size), setup.layer, 0.1), setup)
    one = WantedPiece(
        figure=1, edition="e1", part="block", called="block", layers=layers, piece=piece, setting=setup.setting.id,
        cleanup_min=5.0, size_mm=size, line=line, **more,
    )  # fmt: skip
    return [one] * count


def by_hand(*places, layers="a" * 64):
    lying = tuple(Placed(figure=1, edition="e1", part="block", layers=BlobHash(layers), x=x, y=y, turn=turn)
                  for x, y, turn in places)  # fmt: skip
    return [HandPlate(setting=RESIN.setting.id, lying=lying)]


def test_hands_keep_their_places_until_the_part_is_another_or_is_wanted_no_more():
    placed = by_hand((60.0, 40.0, 17.0), (100.0, 20.0, 0.0))
    packing = packed(wanted(3), DEFAULT_BENCH, by_hand=placed)
    (plate,) = packing.plates
    assert [(one.x, one.y, one.turn) for one in plate.lying[:2]] == [(60.0, 40.0, 17.0), (100.0, 20.0, 0.0)]
    assert (plate.by_hand, len(plate.lying), packing.changed) == (2, 3, ())
    # Of two places one is left where one copy is wanted.
    (plate,) = packed(wanted(1), DEFAULT_BENCH, by_hand=placed).plates
    assert (len(plate.lying), plate.lying[0].x) == (1, 60.0)
    other = packed(wanted(2), DEFAULT_BENCH, by_hand=by_hand((60.0, 40.0, 17.0), layers="b" * 64))
    assert other.plates[0].by_hand == 0
    assert other.changed == ("block was changed since it was placed by hand, and is placed anew",)


def test_parts_that_meet_or_reach_over_an_edge_are_told_and_what_is_packed_is_neither():
    rng = np.random.default_rng(3)
    shadows = [seen(cross(rng)[0]) for _ in range(10)]
    outlines = [outlines_of(one) for one in shadows]
    plates, _ = pack(shadows, ROOM)
    for plate in plates:
        told = conflicts_of(outlines, plate, ROOM.wide, ROOM.deep, ROOM.margin)
        assert (told.meet, told.off) == ((), ())
    block = [outlines_of(seen(box(20, 10, 5)))] * 3
    # Two a millimetre nearer than their margin, the third half over the edge.
    lying = [Lying(0, 20, 20, 0), Lying(1, 41, 20, 0), Lying(2, 99, 50, 90)]
    told = conflicts_of(block, lying, ROOM.wide, ROOM.deep, ROOM.margin)
    assert told.meet == ((0, 1),)
    assert told.off == (2,)


def two_lanterns():
    twin = next(one for one in DEFAULT_BENCH.printers if one.id == RESIN.printer.id).model_copy(
        update={"id": "lantern-7", "name": "Lantern 7"}
    )
    setting = RESIN.setting.model_copy(update={"id": "lantern-7-grey", "printer": "lantern-7"})
    small = twin.model_copy(update={"id": "lantern-8", "volume": (60.0, 60.0, 100.0)})
    less = setting.model_copy(update={"id": "lantern-8-grey", "printer": "lantern-8"})
    bench = DEFAULT_BENCH
    return bench.model_copy(
        update={"printers": (*bench.printers, twin, small), "settings": (*bench.settings, setting, less)}
    )


def test_printers_that_print_alike_share_plates_and_smaller_ones_do_not():
    bench = two_lanterns()
    assert [one.printer.id for one in alike_setups(bench, RESIN)] == [RESIN.printer.id, "lantern-7"]
    packing = packed(wanted(2), bench, Risk(most_parts=1))
    tags = set()
    plates = [planned_plate(k, one, bench, tags) for k, one in enumerate(packing.plates, 1)]
    assert len({plate.of_tasks for plate in plates}) == 2
    plan = days_plan(plates, bench, datetime(2026, 12, 7, 8), None)
    prints = [task for task in plan.tasks if task.id.startswith("plate-")]
    assert [task.machines for task in prints] == [(RESIN.printer.id, "lantern-7")] * 2


def test_a_tag_stays_when_other_plates_change():
    one, other = wanted(1), wanted(1, size=(100, 60, 8))
    both = packed([*one, *other], DEFAULT_BENCH)
    alone = packed(other, DEFAULT_BENCH)
    tags = [planned_plate(1, plate, DEFAULT_BENCH, set()).tag for plate in (*both.plates, *alone.plates)]
    assert len(tags) in (2, 3)
    assert planned_plate(7, alone.plates[0], DEFAULT_BENCH, set()).tag == tags[-1]


def test_what_is_begun_done_moved_or_spare_is_planned_as_such():
    begins = datetime(2026, 12, 7, 8)
    fresh = planned(1, RESIN, 10.0)
    under_way = planned(2, RESIN, 10.0).model_copy(update={"proof": 4, "begun": begins - timedelta(hours=1)})
    over = planned(3, RESIN, 10.0).model_copy(update={"proof": 5, "begun": begins - timedelta(days=1), "printed": True})
    often = RESIN.setting.model_copy(update={"fails": 0.3})
    bench = DEFAULT_BENCH.model_copy(update={"settings": (often, *(s for s in DEFAULT_BENCH.settings
                                                                   if s.id != often.id))})  # fmt: skip
    later = begins + timedelta(days=2)
    moves = [Move(task="plate-1", not_before=later), Move(task="gone", not_before=later)]
    plan = days_plan([fresh, under_way, over], bench, begins, None, moves=moves, done=["wash-proof-5"], spare_from=0.2)
    tasks = {task.id: task for task in plan.tasks}
    assert tasks["plate-1"].not_before == later
    assert tasks["spare-1"].after == ("plate-1",)
    assert tasks["plate-proof-4"].begun == under_way.begun and "spare-proof-4" not in tasks
    assert "plate-proof-5" not in tasks and "wash-proof-5" not in tasks
    assert tasks["cure-proof-5"].after == ()
    sums = sums_of([fresh, under_way, over], plan, bench, {often.id: FailRate(low=0.1, high=0.5, plates=20)})
    assert sums.plates == 2
    assert (sums.fail_share, sums.fail_low, sums.fail_high) == pytest.approx((0.3, 0.1, 0.5))
    assert sums.failures_s == pytest.approx(0.3 * 2 * fresh.told.seconds)
    assert sums.fails_in_ten_hours == pytest.approx(0.6 / (2 * fresh.told.seconds / 36_000))


def test_what_is_under_way_by_a_setting_that_is_gone_is_added_up_too():
    begins = datetime(2026, 12, 7, 8)
    gone = planned(2, RESIN, 10.0).model_copy(
        update={"proof": 4, "begun": begins, "setting": "sold", "printer": "sold", "seconds_on": {}}
    )
    plan = days_plan([gone], DEFAULT_BENCH, begins, None)
    sums = sums_of([gone], plan, DEFAULT_BENCH)
    assert (sums.plates, sums.failures_s, sums.power_kwh) == (1, 0.0, 0.0)
    assert sums.printing_s == gone.told.seconds


def test_what_is_too_large_for_a_station_is_washed_and_cured_outside_it():
    large = planned(1, RESIN, 10.0).model_copy(update={"largest_mm": (120.0, 60.0, 240.0)})
    tasks = {task.id: task for task in days_plan([large], DEFAULT_BENCH, datetime(2026, 12, 7, 8), None).tasks}
    assert (tasks["wash-1"].machines, tasks["cure-1"].machines) == ((), ())
    assert tasks["cure-1"].minutes == 240
    assert "in daylight" in tasks["cure-1"].says


def test_painting_waits_for_all_its_plates_and_for_what_dries():
    plates = [planned(k, RESIN, 5.0).model_copy(update={"lines": (0,)}) for k in (1, 2)]
    work = (WorkRow(what="Prime", says="", hands_min=8, wait_min=90), WorkRow(what="Base coats", says="", hands_min=60))
    line = PaintedLine(number=0, says="2 x imp", count=2, work=work)
    due = datetime(2026, 12, 20)
    tasks = {
        task.id: task for task in days_plan(plates, DEFAULT_BENCH, datetime(2026, 12, 7, 8), due, (), [line]).tasks
    }
    assert {"clean-1", "clean-2"} <= set(tasks["finish-0-1"].after)
    assert tasks["finish-0-1"].hands_before == 16
    assert (tasks["finish-0-2"].after, tasks["finish-0-2"].wait) == (("finish-0-1",), 90)
    assert tasks["finish-0-2-2"].after == ("finish-0-2",)
    assert [name for name, task in tasks.items() if task.due] == ["finish-0-2-2"]


def test_changes_that_may_win_time_keep_what_they_say_they_keep():
    pieces = [*wanted(2, solid_mm3=4000.0, area_mm2=880.0), *wanted(1, line=1, size=(10, 10, 20))]
    held = pieces[0].piece
    volume = float(held.areas.sum()) * RESIN.layer
    coarse = next(one for one in (DEFAULT_BENCH.setup(s.id) for s in DEFAULT_BENCH.settings)
                  if one.process == "resin" and one.layer != RESIN.layer)  # fmt: skip
    other = in_setup(held, RESIN.layer, coarse)
    assert float(other.areas.sum()) * coarse.layer == pytest.approx(volume, rel=0.02)
    assert len(other.areas) * coarse.layer == pytest.approx(8.0, abs=2 * coarse.layer)
    small = scaled(held, RESIN.layer, 0.5)
    assert float(small.areas.sum()) * RESIN.layer == pytest.approx(volume / 8, rel=0.02)
    assert small.shadow.tall == pytest.approx(4.0, abs=0.1)
    assert small.shadow.turned(0, 0)[0].sum() == pytest.approx(held.shadow.turned(0, 0)[0].sum() / 4, rel=0.3)
    changes = {change.says: change for change in changes_to_try(pieces, DEFAULT_BENCH, ["2 x block", "1 x stick"])}
    assert [one.line for one in changes["without 2 x block"].of(pieces)] == [1]
    assert all(len(change.of(pieces)) == 3 for says, change in changes.items() if not says.startswith("without"))
    (hollow,) = (change for says, change in changes.items() if "hollow" in says)
    assert float(hollow.of(pieces)[0].piece.areas.sum()) == pytest.approx(0.44 * float(held.areas.sum()))
    # One of which nothing is known to be solid stays as it is.
    assert (hollow.of(pieces)[2].piece.areas == pieces[2].piece.areas).all()
