"""What breaks first: limbs found by branching, as beams, against the textbook."""

from dataclasses import replace

import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, cylinder, tapered, turned
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition, Use
from ulvet.core.gauge.limbs.check_handling import check_handling
from ulvet.core.gauge.limbs.handling import FOLLOWS, WeakLimb, weakest_first
from ulvet.core.geometry.mesh import Mesh, translated
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.recipe.step import Part

TOUGH = DEFAULT_BENCH.setup(material_id="tough-grey").material
BLOCK = box(20, 20, 6, at=(-10, -10, 0))


def united(*meshes):
    return mesh_of(solids_of(concatenated(*meshes))[0].body)[0]


def textbook(root, tip, length):
    """The push at the tip of a round taper that breaks it where that is the soonest, N: 32 F x / pi d³ = strength."""
    x = np.linspace(0, length, 20_001)[1:]
    d = tip + (root - tip) * x / length
    slender = x >= np.maximum(1, d)
    return float(TOUGH.strength * (np.pi * d**3 / 32 / x)[slender].min())


@pytest.mark.parametrize(
    ("root", "tip", "length"),
    [(1, 1, 10), (0.5, 0.5, 5), (3, 3, 12), (2, 2, 40), (0.3, 0.3, 3), (2, 1, 10), (3, 1, 12), (1.5, 0.6, 8)],
)
@pytest.mark.parametrize("way", ["up", "beside", "along"])
def test_a_round_beam_breaks_as_the_textbook_says(root, tip, length, way):
    grown = 1 + 0.5 / length
    beam = tapered(tip + (root - tip) * grown, tip, length + 0.5)
    if way == "along":
        figure = united(box(8, 8, 24, at=(-4, -4, 0)), translated(turned(beam, "y", 90), [3.5, 1, 15]))
    else:
        figure = united(BLOCK, translated(beam, [0, 0, 5.5] if way == "up" else [5, -4, 5.5]))
    weak = weakest_first(figure, TOUGH)[0]
    assert weak.force == pytest.approx(textbook(root, tip, length), rel=0.08)
    if root == tip:
        assert weak.lever == pytest.approx(length, rel=0.05) and weak.section == pytest.approx(root, rel=0.02)


def test_a_flat_beam_bends_the_easy_way_and_gives_way_as_the_textbook_says():
    (weak,) = weakest_first(united(BLOCK, box(3, 1, 14.5, at=(-1.5, -0.5, 5.5))), TOUGH)
    assert weak.section == pytest.approx(1, rel=0.02) and weak.width == pytest.approx(3, rel=0.02)
    assert weak.force == pytest.approx(TOUGH.strength * 3 / 6 / 14, rel=0.05)
    assert weak.bends == pytest.approx(weak.force * 14**3 / (3 * TOUGH.modulus * 3 / 12), rel=0.08)


def test_what_is_held_at_both_ends_is_no_limb_and_what_stands_beyond_it_is():
    gate = united(
        box(30, 10, 4), box(3, 3, 20, at=(2, 3, 3)), box(3, 3, 20, at=(25, 3, 3)), box(26, 3, 3, at=(2, 3, 20))
    )
    assert not [limb for limb in weakest_first(gate, TOUGH) if limb.lever > 5]
    spike = weakest_first(united(gate, translated(cylinder(0.5, 8.5, 32), [15, 4.5, 22.5])), TOUGH)
    assert spike[0].section == pytest.approx(1, rel=0.02) and spike[0].lever == pytest.approx(8, rel=0.06)


def test_limbs_part_and_each_has_its_own_root():
    y = united(BLOCK, translated(cylinder(1, 10.5, 32), [0, 0, 5.5]),
               translated(turned(cylinder(0.4, 8, 32), "y", 45), [0, 0, 15.5]),
               translated(turned(cylinder(0.6, 8, 32), "y", -45), [0, 0, 15.5]))  # fmt: skip
    weak = weakest_first(y, TOUGH)
    assert [round(limb.section, 1) for limb in weak[:2]] == [0.8, 1.2]
    stem = next(limb for limb in weak if limb.section == pytest.approx(2, rel=0.03))
    assert stem.force == pytest.approx(
        TOUGH.strength * np.pi * 8 / 32 / np.hypot(8 / 2**0.5, 9.5 + 8 / 2**0.5), rel=0.1
    )


def test_shells_that_overlap_hang_together_and_scale_and_place_change_nothing_else():
    loose = concatenated(BLOCK, translated(cylinder(0.5, 10.5, 32), [0, 0, 5.5]))
    (weak,) = weakest_first(loose, TOUGH)
    assert weak.lever == pytest.approx(10, rel=0.03)
    (far,) = weakest_first(Mesh(loose.vertices * 3 + [4000, -900, 77], loose.faces), TOUGH)
    assert far.force == pytest.approx(9 * weak.force, rel=0.02)


def test_layers_across_a_limb_and_a_long_reach_are_told():
    rod = united(BLOCK, translated(cylinder(0.5, 30.5, 32), [0, 0, 5.5]))
    filament = DEFAULT_BENCH.setup(material_id="matt-filament").material
    along, across = weakest_first(rod, filament)[0], weakest_first(rod, filament, np.array([0.0, 0, 1]))[0]
    assert across.force == pytest.approx(filament.across_layers * along.force, rel=0.02)
    assert along.slips == (along.bends > FOLLOWS) and along.bends == pytest.approx(
        2 * filament.strength * 30**2 / (3 * filament.modulus * 1.0), rel=0.05
    )


@pytest.mark.parametrize("mesh", [box(10, 10, 10), ball(5), cylinder(8, 2), Mesh(np.eye(3), np.array([[0, 1, 2]]))])
def test_what_does_not_stick_out_does_not_break(mesh):
    assert not weakest_first(mesh, TOUGH)


def test_without_strength_nothing_is_told():
    rod = concatenated(BLOCK, translated(cylinder(0.5, 10.5, 32), [0, 0, 5.5]))
    assert weakest_first(rod, TOUGH.model_copy(update={"strength": None})) == []


def test_a_remedy_that_its_step_refuses_is_left_out_and_the_finding_stays():
    x, z = np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
    line = z * np.linspace(5, 70, 9)[:, None]
    limb = WeakLimb(
        tip=z * 75, point=z * 5, normal=z, aside=x, force=2.0, lever=70.0, section=13.0, width=13.0, bends=0.1,
        slips=False, drop=0.2, line=line, thick=np.full(9, 13.0), forces=np.full(9, 2.0),
    )  # fmt: skip
    part = Part("figure", box(40, 40, 75))
    edition = Edition(use=Use.PLAY)
    (progress,) = check_handling(part, [limb], 1.0, DEFAULT_BENCH.setup(), edition, DEFAULT_BENCH)
    assert not [remedy for remedy in progress.remedies if remedy.label.startswith("Thicken")], (
        "over 20 mm it makes none"
    )
    thinner = replace(limb, thick=limb.thick / 3)
    (progress,) = check_handling(part, [thinner], 1.0, DEFAULT_BENCH.setup(), edition, DEFAULT_BENCH)
    assert [remedy for remedy in progress.remedies if remedy.label.startswith("Thicken")]
