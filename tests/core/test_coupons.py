"""Coupons: gaps, numbers and lengths read back from their meshes, and what is entered of them."""

import numpy as np
import pytest
import shapely

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.geometry.mesh import bounds
from ulvet.core.geometry.section import Plane, cut_section
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight
from ulvet.core.proof.coupon_told import (
    FitCoupon,
    MeasureCoupon,
    UnreadableCoupon,
    WallsCoupon,
    fits_told,
    lengths_told,
)
from ulvet.core.proof.coupons import coupon_of, gaps_of
from ulvet.core.proof.learnt_coupons import learnt_with_coupons

RESIN = DEFAULT_BENCH.setup()
FILAMENT = DEFAULT_BENCH.setup(setting_id="long-reed-300-matt-filament")
BOTH = pytest.mark.parametrize("setup", [RESIN, FILAMENT], ids=["resin", "filament"])


def level(mesh, z):
    """Outlines of a mesh at a height, as an independent library has them."""
    plane = Plane(np.array([0.0, 0, z]), np.array([1.0, 0, 0]), np.array([0.0, 1, 0]))
    rings = [shapely.Polygon(line) for line in cut_section(mesh, plane, 1_000) if len(line) > 3]
    shape = shapely.Polygon()
    for ring in sorted(rings, key=lambda one: -one.area):
        shape = shape.symmetric_difference(ring)
    return shape


@BOTH
@pytest.mark.parametrize("kind", ["fit", "measure", "walls"])
def test_every_coupon_closes_and_fits_its_plate(kind, setup):
    mesh = coupon_of(kind, setup).mesh
    assert is_watertight(edges_of(mesh))
    low, high = bounds(mesh)
    assert (high - low <= np.array(setup.printer.room)).all()
    assert low[2] == 0


@BOTH
def test_the_gaps_of_a_ladder_are_those_it_says(setup):
    coupon = coupon_of("fit", setup)
    assert face_shells(coupon.mesh, edges_of(coupon.mesh))[0] == 5  # a block and four pegs
    cut = level(coupon.mesh, 3.0)
    holes = [hole for body in getattr(cut, "geoms", [cut]) for hole in body.interiors]
    drawn = [one for one in coupon.features if one.kind.endswith("hole")]
    assert len(holes) == len(drawn) == 4 * len(gaps_of(setup))
    pegs = level(coupon.mesh, 9.0)
    peg_areas = {
        one.kind.split()[0] + f"{one.size:g}": shapely.Polygon() for one in coupon.features if "peg" in one.kind
    }
    for one in coupon.features:
        if one.kind.endswith("peg"):
            (met,) = [body for body in pegs.geoms if body.covers(shapely.Point(one.at))]
            peg_areas[one.kind.split()[0] + f"{one.size:g}"] = met
    for one in drawn:
        (hole,) = [shapely.Polygon(ring) for ring in holes if shapely.Polygon(ring).covers(shapely.Point(one.at))]
        peg = peg_areas[one.kind.split()[0] + f"{one.size - 2 * one.gap:g}"]
        # Wider by two gaps, by the area of either shape.
        side = np.sqrt(hole.area) - np.sqrt(peg.area)
        shape = np.sqrt(np.pi) / 2 if "round" in one.kind else 1.0
        assert side / shape / 2 == pytest.approx(one.gap, abs=0.002)


def test_numbers_are_sunk_beside_their_gaps():
    coupon = coupon_of("fit", RESIN)
    top = level(coupon.mesh, 5.8).area  # through the numbers
    under = level(coupon.mesh, 5.0).area
    assert 5.0 < under - top < 40.0
    assert [one.name for one in coupon.features[:5:4]] == ["2", "4"]


@BOTH
def test_lengths_of_the_measure_block_are_those_of_its_mesh(setup):
    coupon = coupon_of("measure", setup)
    low, high = bounds(coupon.mesh)
    drawn = {one.name: one.size for one in coupon.features}
    assert (high - low).tolist() == pytest.approx([drawn["A"], drawn["B"], drawn["C"]])
    through = level(coupon.mesh, 2.0)
    widths = sorted(shapely.Polygon(ring).area for ring in through.interiors)
    round_holes = [np.pi / 4 * drawn[letter] ** 2 for letter in "HJ"]
    assert widths == pytest.approx(sorted([*round_holes, 4.0 * drawn["R"]]), rel=1e-3)
    above = level(coupon.mesh, 8.0)
    areas = sorted(body.area for body in above.geoms)
    pins = [np.pi / 4 * drawn[letter] ** 2 for letter in "KL"]
    walls = [6.0 * drawn[letter] for letter in "MNP"]
    assert areas == pytest.approx(sorted([drawn["F"] * 12.0, *pins, *walls]), rel=1e-3)


def test_what_a_block_measures_gives_back_what_the_printer_does():
    shrink, growth = (0.004, 0.006, 0.002), 0.05
    read = {
        one.name: one.size * (1 - shrink[int(np.argmax(one.direction))])
        + (0 if one.direction[2] else {"outside": 2, "inside": -2, "step": 0}[one.over] * growth)
        for one in coupon_of("measure", RESIN).features
    }
    told = {one.path: one for one in learnt_with_coupons(
        RESIN, (), [MeasureCoupon(setting=RESIN.setting.id, lengths=read)])}  # fmt: skip
    found = [told[f"shrink.{axis}"].value for axis in ("across", "deep", "up")] + [told["edge_growth"].value]
    assert found == pytest.approx([*shrink, growth], abs=1e-9)


def test_the_gap_that_fits_lies_under_the_one_that_was_ticked():
    fit = FitCoupon(setting=RESIN.setting.id, press=0.06, slide=0.1)
    told = {one.path: one for one in learnt_with_coupons(RESIN, (), [fit])}
    press = told["fits.press"]
    assert 0.04 <= press.low < press.value < press.high <= 0.06
    assert "fits.free" not in told


def test_of_several_ladders_the_thickest_wall_counts():
    told = [WallsCoupon(setting=RESIN.setting.id, wall=wall, pin=0.5) for wall in (0.4, 0.5)]
    found = {one.path: one.value for one in learnt_with_coupons(RESIN, (), told)}
    assert found == {"walls.free_standing.stop": 0.5, "walls.pin.stop": 0.5}


def test_a_gap_or_a_letter_that_is_on_no_coupon_is_refused():
    with pytest.raises(UnreadableCoupon, match=r"no gap of 0\.05 mm"):
        fits_told(FitCoupon(setting=RESIN.setting.id, press=0.05), RESIN)
    with pytest.raises(UnreadableCoupon, match="no length Z"):
        lengths_told(MeasureCoupon(setting=RESIN.setting.id, lengths={"Z": 3.0}), RESIN)
