"""Figures put together from bits, forms and stamps: where things stand, how they hold, what is told of it."""

from io import BytesIO

import numpy as np
import pytest
from PIL import Image

from tests.kept import build_kept
from tests.shapes import box, tube
from ulvet.core.bench.edition import Edition
from ulvet.core.bits.seat import Seat
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.changes import after_change
from ulvet.core.first_forms.shapes import UnusableForm, form_mesh
from ulvet.core.first_forms.steps import AddForm
from ulvet.core.geometry.mesh import bounds, volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.join.steps import JoinParts
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.changes import IllegalOrder, with_group_switched
from ulvet.core.recipe.runner import Recipe, run_recipe
from ulvet.core.sources.picture import picture_of
from ulvet.core.stamp.steps import Stamp

BLOCK = box(20, 20, 10)
FIRST = BringIn(source=BLOCK.hash, name="block.stl", unit="mm", up="z")


def picture():
    image = Image.new("L", (64, 64), 255)
    image.paste(0, (24, 8, 40, 56))
    data = BytesIO()
    image.save(data, "PNG")
    return picture_of(data.getvalue())


SOURCES = {BLOCK.hash: BLOCK, "picture": picture()}


def made(*steps, **edition):
    return run_recipe(Recipe(steps=(FIRST, *steps)), SOURCES, Edition(**edition))


def checked(*steps, **edition):
    return build_kept(Recipe(steps=(FIRST, *steps)), Edition(**edition), SOURCES)


def progress(build, code):
    return [finding for finding in build.findings if finding.code == code]


def peg(**fields):
    given = {"name": "peg", "form": "cylinder", "wide": 4, "tall": 10, "z": 7, **fields}
    return AddForm(**given)


@pytest.mark.parametrize(
    ("form", "sizes", "expected"),
    [
        ("sphere", (10, 1, 1), np.pi / 6 * 1000),
        ("capsule", (10, 1, 16), np.pi / 6 * 1000 + np.pi * 25 * 6),
        ("box", (10, 8, 6), 480),
        ("cylinder", (10, 1, 6), np.pi * 25 * 6),
        ("cone", (10, 1, 6), np.pi * 25 * 2),
        ("torus", (20, 1, 4), 2 * np.pi**2 * 8 * 4),
    ],
)
def test_first_forms_have_their_volume_stand_on_the_ground_and_close(form, sizes, expected):
    mesh = form_mesh(form, *sizes)
    assert volume(mesh) == pytest.approx(expected, rel=0.01)
    assert bounds(mesh)[0, 2] == pytest.approx(0, abs=1e-9)
    assert bounds(mesh)[1, 0] == pytest.approx(sizes[0] / 2, rel=1e-6)
    assert is_watertight(edges_of(mesh))


def test_a_tube_follows_its_curve_and_one_that_meets_itself_is_refused():
    straight = form_mesh("tube", 2, 1, 1, [(0, 0, 0), (30, 0, 0)])
    assert volume(straight) == pytest.approx(np.pi * 30, rel=0.01)
    assert is_watertight(edges_of(form_mesh("tube", 2, 1, 1, [(0, 0, 0), (10, 10, 0), (20, 0, 5), (30, 10, 0)])))
    for curve in ([(0, 0, 0), (30, 0, 0), (30, 3, 0), (0, 3, 0)], [(0, 0, 0), (20, 20, 0), (20, 0, 0), (0, 20, 0)]):
        with pytest.raises(UnusableForm, match="closer to itself"):
            form_mesh("tube", 5, 1, 1, curve)
    with pytest.raises(UnusableForm, match="two places"):
        form_mesh("tube", 5, 1, 1, [(0, 0, 0)])


def test_copies_go_round_and_pairs_are_mirrored_unless_handed():
    wedge = {"name": "fin", "form": "box", "wide": 2, "deep": 6, "tall": 4, "x": 8, "y": 3, "turn": 20.0}
    round_about = made(AddForm(**wedge, copies=3)).parts[1:]
    assert [part.name for part in round_about] == ["fin", "fin 2", "fin 3"]
    middles = np.array([part.mesh.vertices.mean(axis=0)[:2] for part in round_about])
    assert np.linalg.norm(middles, axis=1) == pytest.approx(np.hypot(8, 3))
    assert middles.sum(axis=0) == pytest.approx([0, 0], abs=1e-9)
    one, other = (part.mesh for part in made(AddForm(**wedge, pair=True)).parts[1:])
    assert other.vertices == pytest.approx(one.vertices * [-1, 1, 1])
    assert volume(other) == pytest.approx(volume(one))
    _, handed = (part.mesh for part in made(AddForm(**wedge, pair=True, handed=True)).parts[1:])
    moved = handed.vertices - one.vertices
    assert np.ptp(moved, axis=0) == pytest.approx([0, 0, 0], abs=1e-9)
    assert handed.vertices[:, 0].max() < 0


def test_what_rests_on_the_skin_follows_its_host():
    anchor = Seat(point=(10, 0, 5), normal=(1, 0, 0), source=BLOCK.hash)
    knob = AddForm(name="knob", form="cylinder", wide=4, tall=6, rests_on=anchor, sunk=1)
    low, high = bounds(made(knob).parts[1].mesh)
    assert (low[0], high[0]) == pytest.approx((9, 15))
    wider = box(20.8, 20, 10)
    recipe = Recipe(steps=(BringIn(source=wider.hash, name=FIRST.name), knob))
    low, high = bounds(run_recipe(recipe, {wider.hash: wider}, Edition()).parts[1].mesh)
    assert (low[0], high[0]) == pytest.approx((9.4, 15.4))


def test_what_sits_on_a_form_goes_with_it_when_it_is_resized_moved_turned_or_mirrored():
    plinth = {"name": "plinth", "form": "box", "wide": 6, "deep": 4, "tall": 3, "z": 9.5}
    host = AddForm(**plinth)
    frame = made(host).parts[1].frame
    pea = {"name": "pea", "form": "cone", "wide": 1, "tall": 2}
    on_top = AddForm(**pea, rests_on=Seat(point=(2, 0, 12.5), normal=(0, 0, 1), host="plinth", frame=frame))
    at_side = AddForm(**pea, rests_on=Seat(point=(3, 1, 11), normal=(1, 0, 0), host="plinth", frame=frame))

    def ends(seated, **changed):
        """Where the middle of its foot and its tip come to be."""
        cone = made(AddForm(**{**plinth, **changed}), seated).parts[2].mesh.vertices
        axis = cone[np.linalg.norm(cone - cone.mean(axis=0), axis=1).argmax()]
        return [round(float(v), 6) + 0.0 for v in axis]

    assert ends(on_top) == [2, 0, 14.5]
    assert ends(on_top, tall=9) == [2, 0, 20.5]
    assert ends(on_top, wide=12, grow=2) == [8, 0, 17.5]
    assert ends(on_top, x=-20, z=9) == [-18, 0, 14]
    assert ends(on_top, mirrored=True) == [-2, 0, 14.5]
    assert ends(at_side) == [5, 1, 11]
    assert ends(at_side, turn=90.0) == [-1, 5, 11]
    assert ends(at_side, roll=90.0, x=4) == [5.5, 1, 4.5]
    assert ends(at_side, mirrored=True) == [-5, 1, 11]


def test_a_seat_that_is_lost_is_told_and_put_back():
    knob = AddForm(name="knob", form="cylinder", wide=4, tall=6, rests_on=Seat(point=(40, 0, 5), normal=(1, 0, 0)))
    build = checked(knob)
    assert [part.name for part in build.parts] == ["figure"]
    (lost,) = progress(build, "lost-anchor")
    assert lost.title == "knob has lost its seat, by 30.0 mm"
    back, out = (after_change(build.recipe, Edition(), remedy.change)[0] for remedy in lost.remedies)
    low, high = bounds(run_recipe(back, SOURCES, Edition()).parts[1].mesh)
    assert (low[0], high[0]) == pytest.approx((10, 16))
    assert not progress(build_kept(out, Edition(), SOURCES), "lost-anchor")


def test_parts_join_into_the_host_and_the_round_stays_in_print_millimetres():
    for height in (17.0, 34.0):
        run = made(peg(), JoinParts(host="figure", bit="peg", blend=1.0), height=height)
        assert [part.name for part in run.parts] == ["figure"]
        assert run.receipts[2].neck == pytest.approx(4 * np.pi, rel=0.02)
        assert run.receipts[2].grid == pytest.approx(1 / run.factor / 6)
        assert is_watertight(edges_of(run.parts[0].mesh))
    nobody = made(peg(), JoinParts(host="figure", bit="leg"))
    assert nobody.receipts[2].not_done == "there is no part leg"
    assert len(nobody.parts) == 2


def test_what_meets_is_measured_before_it_is_joined():
    build = checked(peg(), peg(name="far", x=30, z=0))
    (met,) = build.meetings
    assert (met.bit, met.host) == ("peg", "figure")
    assert met.overlap == pytest.approx(3, rel=0.02)
    assert met.neck == pytest.approx(4 * np.pi, rel=0.02)
    assert met.neck_width == pytest.approx(4, rel=0.02)
    assert met.sealed == 0


def test_what_touches_nothing_is_told_and_moved_into_the_nearest():
    floating = checked(peg(z=11.5))
    (finding,) = progress(floating, "floats-free")
    assert finding.measured == pytest.approx(1.5)
    recipe, _ = after_change(floating.recipe, floating.edition, finding.remedies[0].change)
    held = build_kept(recipe, Edition(), SOURCES)
    assert not progress(held, "floats-free")
    assert not progress(held, "overlap-shallow")


def test_a_thin_neck_is_told_and_a_round_mends_it():
    thin = checked(peg(wide=0.5), JoinParts(host="figure", bit="peg"))
    (finding,) = progress(thin, "neck-thin")
    assert finding.measured == pytest.approx(0.5, rel=0.03)
    assert finding.limit == pytest.approx(0.70)
    recipe, _ = after_change(thin.recipe, thin.edition, finding.remedies[0].change)
    assert recipe.steps[2].blend > 0
    assert not progress(build_kept(recipe, Edition(), SOURCES), "neck-thin")
    # Before it is joined the same is told of the bit.
    assert progress(checked(peg(wide=0.5)), "neck-thin")[0].part == "peg"


def test_what_is_told_of_a_join_lies_on_the_part_that_is_left():
    knob = AddForm(name="knob", form="sphere", wide=0.6, z=16.8)
    steps = (peg(), knob, JoinParts(host="peg", bit="knob"), JoinParts(host="figure", bit="peg"))
    build = checked(*steps)
    assert [part.name for part in build.parts] == ["figure"]
    (thin,) = progress(build, "neck-thin")
    assert thin.title.startswith("knob hangs by")
    assert thin.part == "figure"


def test_a_shallow_overlap_is_told_and_the_bit_sunk_deeper():
    shallow = checked(peg(z=9.9))
    (finding,) = progress(shallow, "overlap-shallow")
    assert finding.measured == pytest.approx(0.1, abs=0.01)
    recipe, _ = after_change(shallow.recipe, shallow.edition, finding.remedies[0].change)
    assert not progress(build_kept(recipe, Edition(), SOURCES), "overlap-shallow")


def lidded_pipe():
    pipe = tube(8, 6, 10)
    first = BringIn(source=pipe.hash, name=FIRST.name)
    foot, lid = (AddForm(name=name, form="cylinder", wide=16, tall=2, z=z) for name, z in (("foot", -1), ("lid", 9)))
    joins = JoinParts(host="figure", bit="foot"), JoinParts(host="figure", bit="lid")
    return Recipe(steps=(first, foot, lid, *joins)), {pipe.hash: pipe}


def test_a_lid_that_seals_a_cavity_is_told_in_print_volume():
    recipe, sources = lidded_pipe()
    build = build_kept(recipe, Edition(), sources)
    (finding,) = progress(build, "seals-cavity")
    assert finding.measured == pytest.approx(np.pi * 36 * 8, rel=0.02)


def stamp(**fields):
    anchor = Anchor(point=(0, 0, 10), normal=(0, 0, 1), source=BLOCK.hash)
    return Stamp(**{"name": "mark", "picture": "picture", "places": (anchor,), "width": 6, "depth": 0.4, **fields})


def test_a_stamp_keeps_its_print_depth_at_every_size():
    for height in (10.0, 20.0):
        run = made(stamp(), height=height)
        top = bounds(run.parts[0].mesh)[1, 2] * run.factor
        assert top == pytest.approx(height + 0.4, abs=0.02)
        assert run.receipts[1].depth == pytest.approx(0.4, rel=0.05)
    text = made(stamp(picture=None, text="No. 7", sunk=True))
    assert text.receipts[1].volume_after < text.receipts[1].volume_before
    with pytest.raises(ValueError, match="either a picture or a text"):
        stamp(text="both")


def test_strokes_too_fine_and_stamps_beside_the_figure_are_told_with_a_way_out():
    fine = checked(stamp(width=0.3, depth=0.1))
    (finding,) = progress(fine, "stamp-too-fine")
    assert finding.measured == pytest.approx(0.3 * 16 / 64, rel=0.15)
    recipe, _ = after_change(fine.recipe, fine.edition, finding.remedies[0].change)
    assert not progress(build_kept(recipe, Edition(), SOURCES), "stamp-too-fine")
    (beside,) = progress(checked(stamp(width=60)), "stamp-beside")
    assert beside.measured < 60
    huge = checked(stamp(width=400))
    (beside,) = progress(huge, "stamp-beside")
    assert beside.title == "mark was not pressed"
    assert volume(huge.parts[0].mesh) == volume(BLOCK)
    recipe, _ = after_change(huge.recipe, huge.edition, beside.remedies[0].change)
    assert not progress(build_kept(recipe, Edition(), SOURCES), "stamp-beside")
    (through,) = progress(checked(stamp(depth=12, sunk=True)), "stamp-beside")
    assert "too thin" in through.why


def test_a_form_is_tipped_rolled_and_mirrored_about_its_foot_and_what_is_handed_never_is():
    post = {"name": "post", "form": "box", "wide": 2, "deep": 4, "tall": 10}
    fallen = bounds(made(AddForm(**post, tip=90)).parts[1].mesh)
    assert fallen.ravel() == pytest.approx([-1, -10, -2, 1, 0, 2], abs=1e-9)
    aside = bounds(made(AddForm(**post, roll=90)).parts[1].mesh)
    assert aside.ravel() == pytest.approx([0, -2, -1, 10, 2, 1], abs=1e-9)
    hook = {"name": "hook", "form": "tube", "wide": 2, "curve": [(0, 0, 0), (6, 0, 4), (6, 6, 9)]}
    plain, mirrored, handed = (
        made(AddForm(**hook, **ways)).parts[1].mesh
        for ways in ({}, {"mirrored": True}, {"mirrored": True, "handed": True})
    )
    assert mirrored.vertices == pytest.approx(plain.vertices * [-1, 1, 1])
    assert volume(mirrored) == pytest.approx(volume(plain)) and volume(plain) > 0
    assert handed.hash == plain.hash
    twice = made(AddForm(**hook, mirrored=True, pair=True)).parts[2].mesh
    assert twice.vertices == pytest.approx(plain.vertices)


def test_a_group_is_switched_as_one():
    fins = [peg(name=f"fin {k}", group="fins") for k in range(3)]
    recipe = Recipe(steps=(FIRST, *fins, peg(name="mast")))
    without = with_group_switched(recipe, "fins", False)
    assert [part.name for part in run_recipe(without, SOURCES, Edition()).parts] == ["figure", "mast"]
    assert with_group_switched(without, "fins", True) == recipe
    with pytest.raises(IllegalOrder, match="nothing in that group"):
        with_group_switched(recipe, "", False)


def test_a_thin_neck_is_made_as_thick_as_the_material_wants_by_a_ball_in_it():
    stem = (peg(name="stem", wide=0.4, tall=6, z=9.5), JoinParts(host="figure", bit="stem"))
    (thin,) = progress(checked(*stem), "neck-thin")
    thicken = next(remedy for remedy in thin.remedies if "Thicken" in remedy.label)
    recipe, edition = after_change(Recipe(steps=(FIRST, *stem)), Edition(), thicken.change)
    assert not progress(build_kept(recipe, edition, SOURCES), "neck-thin")
    run = run_recipe(recipe, SOURCES, edition)
    (part,) = run.parts
    wanted = recipe.steps[-1].neck / run.factor
    added = volume(part.mesh) - volume(run_recipe(Recipe(steps=(FIRST, *stem)), SOURCES, Edition()).parts[0].mesh)
    # Half of the ball stands out of the block, but for what of it the stem fills.
    assert added == pytest.approx(np.pi / 12 * wanted**3 - np.pi * 0.04 * wanted / 2, rel=0.15)
    assert is_watertight(edges_of(part.mesh))


def test_a_sealed_cavity_is_filled_by_its_remedy():
    recipe, sources = lidded_pipe()
    (sealed,) = progress(build_kept(recipe, Edition(), sources), "seals-cavity")
    filled, edition = after_change(recipe, Edition(), sealed.remedies[0].change)
    build = build_kept(filled, edition, sources)
    assert not progress(build, "seals-cavity")
    assert volume(run_recipe(filled, sources, edition).parts[0].mesh) == pytest.approx(np.pi * 64 * 12, rel=0.02)


def test_parts_left_overlapping_are_one_part_of_two_bodies_unchanged():
    run = made(peg(), JoinParts(host="figure", bit="peg", overlapping=True))
    (part,) = run.parts
    apart = made(peg()).parts
    assert len(part.mesh.faces) == sum(len(each.mesh.faces) for each in apart)
    assert volume(part.mesh) == pytest.approx(sum(volume(each.mesh) for each in apart))
    assert "overlapping" in run_said(run)


def run_said(run):
    return JoinParts(host="figure", bit="peg", overlapping=True).said(run.receipts[-1])[0]
