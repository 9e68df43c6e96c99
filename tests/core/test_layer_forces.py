"""What layers pull with, what the plate holds, the finest of a layer, and where cutters come: against exact answers."""

import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder, tube, turned
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.layers.clock import layer_seconds
from ulvet.core.layers.fine import narrow_places
from ulvet.core.layers.forces import footprint_of, jumps_of, layer_middles, strain_on_plate
from ulvet.core.layers.look import first_look
from ulvet.core.layers.raster import raster_layers
from ulvet.core.lengths import PrintMM
from ulvet.core.recipe.runner import Recipe
from ulvet.core.stand.clearance_grid import clearance_grid_of
from ulvet.core.stand.plate import base_thickness
from ulvet.core.stand.reach import CUTTERS, reached
from ulvet.core.stand.steps import Orient, Support

RESIN = DEFAULT_BENCH.setup()
FILAMENT = DEFAULT_BENCH.setup(setting_id="long-reed-300-matt-filament")


def layers(mesh, layer=0.05, pixel=0.02):
    return raster_layers(mesh, layer, pixel)


def codes(mesh, *steps, **edition):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))
    return {one.code: one for one in build_figure(recipe, Edition(**edition), {mesh.hash: mesh}).findings}


def test_a_jump_is_told_at_its_layer_with_what_it_adds():
    stack = layers(concatenated(cylinder(3, 10.1), box(20, 16, 2, at=(-10, -8, 10))), pixel=0.05)
    (jump,) = jumps_of(stack)
    assert jump.layer == 200
    assert jump.by == pytest.approx(320 - np.pi * 9, rel=0.01)
    assert jumps_of(layers(ball(8), pixel=0.05)) == []


def test_a_footprint_has_the_moments_of_its_section():
    foot = footprint_of(layers(box(6, 10, 1, at=(5, -2, 0)), pixel=0.05))
    assert foot.area == pytest.approx(60, rel=0.02)
    assert foot.middle == pytest.approx((8, 3), abs=0.06)
    assert np.diag(foot.moments) == pytest.approx((10 * 6**3 / 12, 6 * 10**3 / 12), rel=0.03)
    assert foot.moments[0, 1] == pytest.approx(0, abs=1)
    assert foot.reach == pytest.approx((3, 5), abs=0.1)


def test_the_strain_on_the_plate_is_that_of_a_stiff_beam():
    holding = RESIN.supports
    # A step to one side: its layers pull at a lever of 8 mm about a foot of 4 x 4 mm.
    stack = layers(concatenated(box(4, 4, 6), box(20, 4, 2, at=(0, 0, 5))), pixel=0.05)
    strain = strain_on_plate(stack, footprint_of(stack), holding, resin=True)
    pull = 80 * holding.pull
    assert strain[-1] == pytest.approx(pull / 16 + pull * 8 * 2 / (4**4 / 12), rel=0.05)
    assert layer_middles(stack)[-1] == pytest.approx((10, 2), abs=0.06)
    tower = raster_layers(box(4, 6, 50), 0.2, 0.1)
    dragged = strain_on_plate(tower, footprint_of(tower), FILAMENT.supports, resin=False)
    assert dragged[-1] == pytest.approx(24 * FILAMENT.supports.pull * 49.9 / (6 * 4**2 / 6), rel=0.06)


def test_a_tower_of_filament_may_let_go_and_a_block_does_not():
    setting = "long-reed-300-matt-filament"
    upright = (Orient(up=(0, 0, 1)), Support())
    found = codes(box(4, 4, 120), *upright, setting=setting, factor=1.0)["lets-go"]
    assert found.measured > found.limit == FILAMENT.supports.stick
    assert "lets-go" not in codes(box(40, 40, 30), *upright, setting=setting, factor=1.0)
    assert "lets-go" not in codes(box(4, 4, 120), setting=setting, factor=1.0), "nobody has stood it yet"


def test_a_thin_base_on_the_plate_is_told_and_what_is_raised_or_thick_is_not():
    upright = Orient(up=(0, 0, 1))
    thin = concatenated(cylinder(10, 0.4), cylinder(3, 20))
    found = codes(thin, upright, Support(), factor=1.0)["base-vanishes"]
    assert found.measured == pytest.approx(0.4, abs=0.051)
    assert "base-vanishes" not in codes(thin, upright, Support(lift=PrintMM(5)), factor=1.0)
    thick = concatenated(cylinder(10, 3), cylinder(3, 20))
    assert "base-vanishes" not in codes(thick, upright, Support(), factor=1.0)
    assert base_thickness(layers(thick, pixel=0.1)) == pytest.approx(3, abs=0.051)


def test_a_layer_begins_when_those_before_it_are_done():
    stack = layers(box(10, 10, 4), pixel=0.1)
    times = RESIN.setting.times
    seconds = layer_seconds(stack, RESIN)
    assert len(seconds) == stack.count + 1
    assert seconds[times.first_layers] == pytest.approx(times.first_layers * times.seconds_per_first_layer)
    assert seconds[-1] - seconds[-2] == pytest.approx(times.seconds_per_layer)
    slow = layer_seconds(raster_layers(box(10, 10, 4), 0.2, 0.1), FILAMENT)
    assert slow[-1] - slow[-2] > FILAMENT.setting.times.seconds_per_layer


def test_a_print_is_looked_at_when_it_hangs_clear_of_the_vat_and_its_weak_layer_is_passed():
    vat, layer = RESIN.printer.vat_depth, RESIN.layer
    tall = raster_layers(box(20, 20, 60), layer, 0.2)
    look = first_look(tall, RESIN)
    assert look.layer == pytest.approx(vat / layer, abs=1)
    assert look.seconds == pytest.approx(layer_seconds(tall, RESIN)[look.layer])
    # A shelf far above the vat is the first place at which it may tear.
    shelf = raster_layers(concatenated(cylinder(3, 41), box(30, 30, 20, at=(-15, -15, 40))), layer, 0.2)
    above = first_look(shelf, RESIN)
    assert above.weak_layer == pytest.approx(40 / layer, abs=1)
    assert above.layer == above.weak_layer + 1
    assert first_look(raster_layers(box(20, 20, vat / 2), layer, 0.2), RESIN) is None
    # Filament lies open, so that nothing has to be waited for but the weak layer itself.
    low = first_look(raster_layers(concatenated(box(4, 4, 6), box(20, 4, 2, at=(0, 0, 5))), 0.2, 0.1), FILAMENT)
    assert low.layer == low.weak_layer + 1 < vat / layer


@pytest.mark.parametrize("degrees", range(0, 91, 15))
def test_a_wall_and_a_slit_are_found_however_they_lie(degrees):
    wall = turned(concatenated(box(10, 8, 1), box(6, 0.08, 3, at=(2, 3, 0.9))), "z", degrees)
    lines, gaps = narrow_places(layers(wall), line=0.1, gap=0.15)
    assert lines and not gaps
    assert lines[0].layer == 20
    assert np.median([one.width for one in lines]) == pytest.approx(0.08, abs=0.025)
    slit = turned(concatenated(box(4, 8, 3), box(4, 8, 3, at=(4.12, 0, 0))), "z", degrees)
    lines, gaps = narrow_places(layers(slit), line=0.1, gap=0.15)
    assert gaps and not lines
    assert np.median([one.width for one in gaps]) == pytest.approx(0.12, abs=0.025)
    wide = turned(concatenated(box(4, 8, 3), box(4, 8, 3, at=(4.2, 0, 0))), "z", degrees)
    assert narrow_places(layers(wide), line=0.1, gap=0.15) == ([], [])


def test_ends_of_points_are_no_lines():
    for mesh in (ball(5), concatenated(box(10, 8, 1), cylinder(0.05, 5, at=(5, 4, 0)))):
        assert narrow_places(layers(mesh), line=0.1, gap=0.15) == ([], [])


def reach(mesh, *places):
    stack = raster_layers(mesh, RESIN.layer, RESIN.pixel)
    return reached(clearance_grid_of(stack, 0.0, 0.5), np.array(places, float), CUTTERS).tolist()


def bell(inner, deep):
    """A tube shut at its top."""
    return concatenated(tube(inner + 2, inner, deep), cylinder(inner + 2, 2, at=(0, 0, deep)))


def cage(gap):
    """Square bars about a room of 20 mm, ``gap`` mm from each other, with a lid and a floor."""
    bars = [
        turned(box(2, 2, 24, at=(x, 10, 0)), "z", side)
        for side in (0, 90, 180, 270)
        for x in np.arange(-12, 11, 2 + gap)
    ]
    return concatenated(*bars, box(26, 26, 2, at=(-13, -13, 23)), box(26, 26, 2, at=(-13, -13, -1)))


def moved_up(mesh):
    return Mesh(mesh.vertices - [0, 0, mesh.vertices[:, 2].min()], mesh.faces)


def test_cutters_come_where_a_line_as_wide_as_they_are_leads():
    # Into a bell 12 mm wide along its middle, but not along its wall; a narrow one is shut to them.
    assert reach(bell(6, 30), (0, 0, 29), (5.5, 0, 29)) == [True, False]
    assert reach(bell(3, 30), (0, 0, 29), (0, 0, 1)) == [False, True]
    assert reach(moved_up(cage(10)), (0, 0, 12)) == [True]
    assert reach(moved_up(cage(3)), (0, 0, 12)) == [False]
    # Between the teeth of a comb they come from the open side, wherever there is room between two.
    teeth = [box(2, 30, 20, at=(x, 0, 0)) for x in (0, 5, 16)]
    comb = concatenated(*teeth, box(18, 4, 20))
    assert reach(comb, (3.5, 10, 5), (11.5, 10, 5)) == [False, True]
