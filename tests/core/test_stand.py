"""Standing and holding: on shapes of which it is known where they must be held."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import Mesh, bounds, translated, volume
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight
from ulvet.core.layers.island_limits import ISLAND_LEAST_AREA, island_dilation
from ulvet.core.layers.islands import find_islands
from ulvet.core.layers.raster import raster_layers
from ulvet.core.recipe.stance import Stance, turn_to
from ulvet.core.stand.columns import Column, column_mesh, supports_mesh
from ulvet.core.stand.contacts import loads_of, tip_for
from ulvet.core.stand.orientation import EXACT, fitting_spin, orient_figure
from ulvet.core.stand.screening import directions_for, screen_directions
from ulvet.core.stand.supports import SupportedFigure, support_figure
from ulvet.core.stand.undersides import undersides_of

RESIN, FILAMENT = DEFAULT_BENCH.setup(printer_id="lantern-6"), DEFAULT_BENCH.setup(printer_id="long-reed-300")
UP = np.array([[0.0, 0, 1]])


def hook() -> Mesh:
    """A post with an arm, from which a bar hangs over the plate."""
    return concatenated(box(4, 4, 40), box(20, 4, 3, (0, 0, 37)), box(3, 4, 30, (17, 0, 8)))


def on_plate(mesh: Mesh, up: np.ndarray) -> Mesh:
    turned = Mesh(mesh.vertices @ turn_to(up / np.linalg.norm(up)).T, mesh.faces)
    return translated(turned, -bounds(turned)[0] * [0, 0, 1])


def unheld(figure: Mesh, held: SupportedFigure, setup) -> int:
    """Islands of figure and supports, looked for anew."""
    lifted = translated(figure, np.array([0, 0, held.lift]))
    whole = lifted if held.supports is None else concatenated(lifted, held.supports)
    stack = raster_layers(whole, setup.layer, setup.pixel)
    return len(find_islands(stack, island_dilation(setup), ISLAND_LEAST_AREA))


# Turning


@given(st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.01), st.floats(0, 6))
def test_a_turn_brings_its_direction_up_and_changes_no_length(way, spin):
    up = np.array(way) / np.linalg.norm(way)
    turn = turn_to(up, spin)
    assert np.allclose(turn @ up, [0, 0, 1], atol=1e-7)
    assert np.allclose(turn @ turn.T, np.eye(3), atol=1e-7)
    assert np.linalg.det(turn) == pytest.approx(1)


def test_what_lies_in_the_printer_comes_back_to_the_figure():
    mesh = box(3, 5, 7, (1, 2, 3))
    stance = Stance(up=(0.6, 0.0, 0.8), spin=0.7, lift=5)
    printed = stance.in_print(mesh, 2.5)
    assert bounds(printed)[0, 2] == pytest.approx(5)
    assert volume(printed) == pytest.approx(105 * 2.5**3)
    assert np.allclose(stance.in_figure(printed.vertices, mesh, 2.5), mesh.vertices)


# Screening


def test_the_screening_measures_a_table_as_it_stands():
    table = concatenated(box(30, 20, 2, (0, 0, 20)), box(3, 3, 20))
    found = screen_directions(table, UP, 40, None, 0.05)
    assert found.flat[0] == pytest.approx(9)
    # The top's whole underside counts, also where the leg meets it: shells are not joined here.
    assert found.overhang[0] == pytest.approx(600)
    assert found.support[0] == pytest.approx(600 * 20)
    assert found.height[0] == pytest.approx(22)
    assert found.peak[0] == pytest.approx(600)


def test_the_screening_counts_what_hangs_and_not_what_stands():
    found = screen_directions(hook(), UP, 40, None, 0.05)
    assert found.minima[0] == 2  # the hanging bar's foot and the arm's underside
    assert screen_directions(box(4, 4, 4), UP, 40, None, 0.05).minima[0] == 0


def test_only_undersides_on_the_show_side_count_as_shown():
    ways = np.array([[0.0, 0, 1], [0, 0, -1]])
    found = screen_directions(ball(5), ways, 40, np.array([0.0, 0, -1]), 0.05)
    assert found.shown[0] == pytest.approx(found.overhang[0])
    assert found.shown[1] == 0


def test_steep_sides_of_a_ball_want_no_holding():
    found = screen_directions(ball(10, rounds=6), UP, 40, None, 0.0)
    assert found.overhang[0] == pytest.approx(np.pi * (10 * np.sin(np.radians(40))) ** 2, rel=0.01)


def test_at_least_five_hundred_ways_are_screened():
    ways = directions_for(ball(3))
    assert len(ways) >= 500
    assert np.allclose(np.linalg.norm(ways, axis=1), 1)
    # Nowhere is the next way farther than a few degrees.
    spots = np.random.default_rng(1).normal(size=(2000, 3))
    spots /= np.linalg.norm(spots, axis=1)[:, None]
    assert np.degrees(np.arccos((spots @ ways.T).max(axis=1).min())) < 7


# Choosing


def test_what_has_a_flat_foot_stands_on_it_however_it_was_drawn():
    spool = concatenated(cylinder(12, 2), cylinder(3, 30))
    for up in ([0, 0, 1], [0, 0, -1], [1, 0, 0], [0.3, -0.5, 0.6]):
        drawn = on_plate(spool, np.array(up, float))
        ways = orient_figure(drawn, FILAMENT, None)
        assert len(ways.best) == EXACT
        best = drawn.vertices @ turn_to(np.array(ways.best[0].up)).T
        lowest = best[:, 2] < best[:, 2].min() + 0.01
        assert np.ptp(best[lowest, 0]) == pytest.approx(24, abs=0.2)


def test_the_side_that_shows_turns_away_from_the_plate():
    show = np.array([0.0, -1, 0])
    best = orient_figure(ball(8), RESIN, show).best[0]
    assert np.dot(best.up, show) > 0


def test_what_is_too_tall_to_stand_is_laid_down():
    rod = cylinder(4, 190)  # the printer builds 165 up, 132 wide
    assert fitting_spin(rod.vertices, UP[0], RESIN.printer, 5) is None
    best = orient_figure(cylinder(4, 170), RESIN, None).best[0]
    assert best.fits
    turned = cylinder(4, 170).vertices @ turn_to(np.array(best.up), best.spin).T
    assert (np.ptp(turned, axis=0) < RESIN.printer.volume).all()


# Holding


@pytest.mark.parametrize("setup", [RESIN, FILAMENT], ids=["resin", "filament"])
@pytest.mark.parametrize(
    "figure",
    [
        hook(),
        ball(8),
        tube(8, 7, 14),
        concatenated(box(30, 4, 4, (0, 0, 10)), *[box(0.6, 0.6, 8, (k * 1.7, 1, 2 + 0.1 * k)) for k in range(17)]),
    ],
    ids=["hook", "ball", "tube", "comb"],
)
@pytest.mark.parametrize("up", [(0, 0, 1), (1, -2, 0.5), (0.3, 0.4, -1)])
def test_nothing_begins_in_the_air_once_it_is_held(figure, setup, up):
    figure = on_plate(figure, np.array(up, float))
    held = support_figure(figure, setup)
    assert held.unheld == ()
    assert unheld(figure, held, setup) == 0


def test_an_island_gets_a_contact_where_it_begins():
    held = support_figure(hook(), RESIN)
    assert held.islands_before == 1
    foot = [c for c in held.contacts if c.point[2] == pytest.approx(8 + held.lift, abs=0.06)]
    assert foot and all(17 <= c.point[0] <= 20 for c in foot)


def test_columns_keep_clear_of_the_figure_and_stand_on_the_plate():
    figure = on_plate(hook(), np.array([0.4, 0.2, 1.0]))
    held = support_figure(figure, RESIN)
    supports = held.supports
    lifted = translated(figure, np.array([0, 0, held.lift]))
    assert bounds(supports)[0, 2] == 0
    near = np.array([c.point for c in held.contacts])
    away = np.linalg.norm(supports.vertices[:, None] - near, axis=2).min(axis=1) > 0.5
    way = np.array([0.1, -0.6, -0.79])  # along no edge of the figure
    inside = Rays(lifted).buried(supports.vertices, np.broadcast_to(way, supports.vertices.shape))
    assert not (inside & away).any()


def test_every_support_is_closed_and_looks_outward():
    supports = support_figure(on_plate(ball(9), UP[0]), RESIN).supports
    edges = edges_of(supports)
    assert is_watertight(edges)
    count, shell = face_shells(supports, edges)
    assert min(volume(Mesh(supports.vertices, supports.faces[shell == k])) for k in range(count)) > 0


def test_a_place_shut_in_is_held_from_the_figure_below_it():
    walls = box(17, 17, 17, (1.5, 1.5, 1.5))
    shut = concatenated(box(20, 20, 20), Mesh(walls.vertices, walls.faces[:, ::-1]), ball(2, (10, 10, 10)))
    held = support_figure(shut, RESIN, lift=0)
    assert held.unheld == ()
    assert [c.on_figure for c in held.contacts if 7 < c.point[2] < 9] == [True]


def test_the_show_side_is_left_alone_where_no_island_begins():
    figure = on_plate(ball(10), UP[0])
    show = np.array([0.6, 0, -0.8])
    shown = support_figure(figure, RESIN, show=show)
    normals = np.array([c.point for c in shown.contacts]) - [0, 0, 10 + shown.lift]
    normals /= np.linalg.norm(normals, axis=1)[:, None]
    touching = normals @ show > 0.55
    assert touching.sum() == sum(c.shows for c in shown.contacts) <= 2
    assert len(shown.contacts) < len(support_figure(figure, RESIN).contacts)


def test_a_flat_foot_stands_on_the_plate_and_needs_nothing():
    held = support_figure(box(20, 20, 10), RESIN)
    assert (held.lift, held.contacts, held.support_ml) == (0, (), 0)


def test_a_lifted_box_is_held_all_over_its_foot():
    held = support_figure(box(20, 20, 10), RESIN, lift=5)
    points = np.array([c.point for c in held.contacts])
    assert np.allclose(points[:, 2], 5, atol=0.06)
    corners = np.array([[x, y] for x in (1, 19) for y in (1, 19)])
    gaps = np.linalg.norm(points[None, :, :2] - corners[:, None], axis=2).min(axis=1)
    assert (gaps <= DEFAULT_BENCH.setup().supports.spacing).all()


# Loads


def test_together_contacts_bear_all_that_any_layer_pulls():
    heights, shares = np.array([0.0, 0.0, 2.0, 4.0]), np.array([2.0, 1.0, 1.0, 4.0])
    areas = np.repeat([10.0, 40.0, 20.0], 40)
    loads = loads_of(heights, shares, areas, 0.05, 0.0, 0.01)
    for k, area in enumerate(areas):
        begun = (heights / 0.05).astype(int) <= k
        assert loads[begun].sum() >= area * 0.01 - 1e-9
    assert loads[0] == pytest.approx(2 * loads[1])


def test_what_the_plate_holds_is_taken_off_the_contacts():
    heights, shares, areas = np.array([1.0]), np.array([5.0]), np.full(60, 50.0)
    alone, beside = (loads_of(heights, shares, areas, 0.05, plate, 0.01)[0] for plate in (0.0, 45.0))
    assert alone == pytest.approx(0.5)
    assert beside == pytest.approx(0.05)


def test_tips_grow_with_the_root_of_their_load_between_their_limits():
    holding = DEFAULT_BENCH.setup().supports
    small, double = tip_for(np.array([0.15, 0.6]), holding)
    assert double == pytest.approx(2 * small)
    assert tip_for(np.array([0.0, 99.0]), holding).tolist() == [holding.tip_least, holding.tip_most]


def test_a_heavier_figure_is_held_by_thicker_tips():
    light, heavy = (support_figure(on_plate(ball(r), UP[0]), RESIN) for r in (5, 20))
    assert max(c.tip_mm for c in heavy.contacts) > max(c.tip_mm for c in light.contacts)


# Parts of the above


def test_undersides_of_inner_shells_are_not_held():
    nested = concatenated(box(20, 20, 10), box(6, 6, 4, (7, 7, 5)))  # the inner one buried in the outer
    lifted = translated(nested, np.array([0.0, 0, 5]))
    under = undersides_of(lifted, Rays(lifted), DEFAULT_BENCH.setup().supports, 0.0)
    assert len(under.points) and np.allclose(under.points[:, 2], 5, atol=1e-3)
    assert under.wanting.sum() * under.cell == pytest.approx(400, rel=0.1)


def test_a_column_has_the_volume_of_its_frustums():
    column = column_mesh(np.array([[0, 0, 10.0], [0, 0, 4.0], [0, 0, 0.0]]), np.array([0.5, 0.5, 1.0]))
    share = 10 * np.sin(np.pi / 5) / (2 * np.pi)  # a ten-sided ring in its circle
    frustum = np.pi * 4 / 3 * (0.25 + 0.5 + 1)
    assert volume(column) == pytest.approx(share * (np.pi * 0.25 * 6 + frustum))


def test_feet_on_one_raft_hang_together():
    axes = [np.array([[x, 0, 9.0], [x, 0, 8.0], [x, 0, 0.0]]) for x in (0.0, 20.0, 60.0)]
    mesh = supports_mesh([Column(axis, np.array([0.1, 0.4, 0.5]), 1.5) for axis in axes], 0.7, with_bars=True)
    first = raster_layers(mesh, 0.05, 0.05)
    runs = slice(int(first.starts[0]), int(first.starts[1]))
    middle = first.row[runs] == first.shape[0] // 2
    assert middle.sum() == 1  # one run of pixels along the line of feet


@settings(max_examples=of_all(12), deadline=None)
@given(st.integers(0, 2**31))
def test_any_heap_of_balls_is_held_whichever_way_it_lies(seed):
    rng = np.random.default_rng(seed)
    balls = [ball(float(rng.uniform(0.5, 4)), tuple(rng.uniform(-8, 8, 3)), 2) for _ in range(rng.integers(1, 12))]
    figure = on_plate(concatenated(*balls), rng.normal(size=3))
    held = support_figure(figure, RESIN)
    assert held.unheld == ()
    assert unheld(figure, held, RESIN) == 0


def test_holding_twice_gives_the_same():
    figure = on_plate(hook(), np.array([1.0, -2, 0.5]))
    first, second = (support_figure(figure, RESIN) for _ in range(2))
    assert first.contacts == second.contacts
    assert first.supports.hash == second.supports.hash


@pytest.mark.parametrize(("printer", "seed"), [("lantern-10", 0), ("lantern-6", 4), ("long-reed-300", 3)])
def test_islands_shut_in_by_others_are_held_at_last_by_a_pin(printer, seed):
    rng, setup = np.random.default_rng(seed), DEFAULT_BENCH.setup(printer_id=printer)
    heap = concatenated(*[ball(0.6, at=tuple(at), rounds=2) for at in rng.uniform(0, [10, 10, 8], (120, 3))])
    heap = translated(heap, -bounds(heap)[0])
    assert unheld(heap, support_figure(heap, setup), setup) == 0
