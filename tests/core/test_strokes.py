"""Strokes: what each tool does under the brush, what it leaves alone, and that a stroke replays."""

import igl
import numpy as np
import pytest

from tests.shapes import ball, box, concatenated, subdivided
from ulvet.core.geometry.mesh import scaled, vertex_normals
from ulvet.core.recipe.anchors import Anchor
from ulvet.core.recipe.step import Context, Part
from ulvet.core.strokes.brush import TOOLS, Brush, StrokedMesh
from ulvet.core.strokes.landing import StrokeSurface
from ulvet.core.strokes.steps import Stroke
from ulvet.core.strokes.working import StrokeSession

GLOBE = ball(10, rounds=5)
TOP, UP = np.array([0.0, 0, 10]), np.array([0.0, 0, 1])


def plate(thick, rounds=5):
    mesh = box(20, 20, thick, at=(-10, -10, 0))
    for _ in range(rounds):
        mesh = subdivided(mesh)
    return mesh


@pytest.mark.parametrize("tool", TOOLS)
def test_only_what_lies_under_the_brush_and_looks_its_way_moves(tool):
    thin = plate(1.0)
    worked = StrokedMesh(thin)
    touched = worked.sample(Brush(tool, 3.0, 0.5 if tool != "thicken" else 2.0), np.array([1.0, 1, 1]), UP)
    moved = np.flatnonzero((worked.points != thin.vertices).any(axis=1))
    assert set(moved) <= set(touched.vertices)
    assert (np.linalg.norm(thin.vertices[touched.vertices] - [1, 1, 1], axis=1) < 3).all()
    assert (thin.vertices[touched.vertices][:, 2] == 1).all()
    assert (worked.points[touched.vertices] == touched.points).all()


def test_raise_and_lower_move_the_middle_by_the_amount_and_the_edge_hardly():
    for tool, way in (("raise", 1), ("lower", -1)):
        worked = StrokedMesh(GLOBE)
        worked.sample(Brush(tool, 3.0, 0.4), TOP, UP)
        moved = worked.points - GLOBE.vertices
        assert moved[GLOBE.vertices[:, 2].argmax()] == pytest.approx([0, 0, way * 0.4], abs=1e-6)
        far = np.linalg.norm(GLOBE.vertices - TOP, axis=1) > 2.7
        assert np.abs(moved[far]).max() < 0.4 * 0.05


def test_smooth_and_flatten_take_bumps_down_and_crease_draws_together():
    dice = np.random.default_rng(3)
    rough = GLOBE.vertices + vertex_normals(GLOBE) * dice.normal(0, 0.05, len(GLOBE.vertices))[:, None]
    under = np.linalg.norm(GLOBE.vertices - TOP, axis=1) < 1.5
    for tool in ("smooth", "flatten"):
        worked = StrokedMesh(type(GLOBE)(rough, GLOBE.faces))
        for _ in range(6):
            worked.sample(Brush(tool, 4.0, 0.8), TOP, UP)
        heights = (
            worked.points[under]
            if tool == "flatten"
            else worked.points[under] / np.linalg.norm(worked.points[under], axis=1, keepdims=True)
        )
        if tool == "flatten":
            assert np.ptp(heights[:, 2]) < 0.5 * np.ptp(rough[under][:, 2])
        else:
            before, after = (np.linalg.norm(p[under], axis=1).std() for p in (rough, worked.points))
            assert after < 0.5 * before
    worked = StrokedMesh(GLOBE)
    worked.sample(Brush("crease", 3.0, 0.3), TOP, UP)
    sides = (np.linalg.norm(GLOBE.vertices[:, :2], axis=1) > 0.5) & under & (GLOBE.vertices[:, 2] > 0)
    before, after = (np.linalg.norm(p[sides][:, :2], axis=1) for p in (GLOBE.vertices, worked.points))
    assert (after < before).all()
    assert worked.points[:, 2].max() < 10


def test_thicken_brings_a_wall_to_what_is_wanted_and_leaves_thicker_ones():
    thin = plate(0.4)
    worked = StrokedMesh(thin)
    worked.sample(Brush("thicken", 4.0, 0.8), np.array([0.0, 0, 0.4]), UP)
    middle = np.linalg.norm(thin.vertices - [0, 0, 0.4], axis=1).argmin()
    assert worked.points[middle, 2] == pytest.approx(0.8, abs=0.02)
    stout = StrokedMesh(plate(3.0))
    stout.sample(Brush("thicken", 4.0, 0.8), np.array([0.0, 0, 3.0]), UP)
    assert (stout.points == plate(3.0).vertices).all()


def stroke(mesh, **fields):
    line = [np.array([x, 0, np.sqrt(100 - x * x)]) for x in np.linspace(1, 5, 12)]
    places = tuple(Anchor.at(at, at / 10, mesh.hash) for at in line)
    return Stroke(**{"tool": "raise", "places": places, "radius": 2.0, "amount": 0.05, **fields})


def replayed(step, mesh, factor=1.0):
    return step.change(Part("figure", mesh, source=mesh.hash), Context({"factor": factor}, step.needs))


@pytest.mark.parametrize("tool", TOOLS)
def test_a_stroke_replays_to_the_byte_however_often_it_is_read(tool):
    step = stroke(GLOBE, tool=tool, mirrored=True)
    one, receipt = replayed(step, GLOBE)
    again, _ = replayed(Stroke.model_validate_json(step.model_dump_json()), GLOBE)
    assert one.mesh.to_bytes() == again.mesh.to_bytes()
    assert receipt.samples == 12
    assert not receipt.lost


def test_a_mirrored_stroke_is_the_same_on_both_sides():
    mesh = replayed(stroke(GLOBE, mirrored=True), GLOBE)[0].mesh
    heights = {}
    for (x, y, z), (_, _, now) in zip(GLOBE.vertices.round(9), mesh.vertices, strict=True):
        heights[(x, y, z)] = now
    pairs = [(now, heights[(-x, y, z)]) for (x, y, z), now in heights.items() if x > 0 and (-x, y, z) in heights]
    assert len(pairs) > 1000
    assert np.abs(np.diff(pairs, axis=1)).max() < 0.02


def test_on_another_source_a_stroke_lands_anew_or_is_told_as_lost():
    wider = scaled(GLOBE, 1.02)
    part, receipt = replayed(stroke(GLOBE), wider)
    assert receipt.samples == 12
    assert np.linalg.norm(part.mesh.vertices, axis=1).max() > 10.3
    _, gone = replayed(stroke(GLOBE), ball(10, (60, 0, 0)))
    assert len(gone.lost) == 12
    assert gone.not_done


def test_radius_and_amount_are_print_millimetres():
    small, _ = replayed(stroke(GLOBE), GLOBE)
    half, _ = replayed(stroke(GLOBE, radius=1.0, amount=0.025), GLOBE, factor=0.5)
    assert half.mesh.vertices == pytest.approx(small.mesh.vertices)


def test_thickening_again_and_again_goes_no_further_than_what_is_wanted():
    thin = plate(0.4)
    worked = StrokedMesh(thin)
    for x in np.linspace(-2, 2, 40):
        worked.sample(Brush("thicken", 3.0, 0.8), np.array([x, 0, 0.4]), UP)
    assert worked.points[:, 2].max() == pytest.approx(0.8, abs=0.01)


def live(mesh, walls=1.0):
    return StrokeSession(Part("figure", mesh), mesh, np.full(len(mesh.vertices), walls), 2.0)


@pytest.mark.parametrize("tool", TOOLS)
def test_what_is_drawn_live_is_what_the_steps_replay_to_the_bit(tool):
    part, working = Part("figure", plate(1.0)), live(plate(1.0))
    for y in (-2.0, 0.0, 1.0):
        places = tuple(Anchor(point=(x, y, 1.01), normal=(0, 0, 1)) for x in np.linspace(-4, 4, 9))
        stroke = Stroke(tool=tool, places=places, radius=3, amount=2.5 if tool == "thicken" else 0.2, mirrored=y == 1)
        for place in places:
            working.sample(stroke, place)
        working.end()
        part, _ = stroke.change(part, Context({"factor": 2.0}, ("factor",)))
    assert working.mesh.hash == part.mesh.hash


def test_what_is_drawn_follows_with_its_walls_and_goes_back_when_the_stroke_is_taken_back():
    thin = plate(1.0)
    working = live(thin)
    stroke = Stroke(tool="lower", places=(Anchor(point=(0, 0, 1), normal=(0, 0, 1)),), radius=4, amount=0.8)
    followed = working.sample(stroke, stroke.places[0])
    assert followed.walls.min() == pytest.approx(0.6, abs=0.01)
    assert followed.points[:, 2].min() == pytest.approx(0.6, abs=0.01)
    assert np.linalg.norm(followed.normals, axis=1) == pytest.approx(1)
    back = working.leave()
    assert set(back.vertices) == set(followed.vertices)
    assert (back.points == thin.vertices[back.vertices]).all()
    assert back.walls == pytest.approx(1.0)
    assert working.sample(stroke, Anchor(point=(0, 0, 9), normal=(0, 0, 1))) is None


def test_a_coarser_drawing_goes_where_the_part_goes():
    fine, coarse = plate(1.0, rounds=5), plate(1.0, rounds=3)
    working = StrokeSession(Part("figure", fine), coarse, np.full(len(coarse.vertices), 1.0), 1.0)
    stroke = Stroke(tool="raise", places=(Anchor(point=(0, 0, 1), normal=(0, 0, 1)),), radius=5, amount=0.4)
    followed = working.sample(stroke, stroke.places[0])
    assert 0 < len(followed.vertices) < len(coarse.vertices)
    assert followed.points[:, 2].max() == pytest.approx(1.4, abs=0.02)


def test_samples_land_on_the_nearest_surface_of_long_and_short_faces_alike():
    dice = np.random.default_rng(4)
    lumpy = concatenated(box(40, 40, 2, at=(-20, -20, -12)), GLOBE)
    part = Part("figure", lumpy)
    at = dice.uniform(-20, 20, (200, 3)) * [1, 1, 0.5]
    points, _, lost = StrokeSurface(part, StrokedMesh(lumpy)).of([Anchor(point=tuple(map(float, p))) for p in at])
    square, _, _ = igl.point_mesh_squared_distance(at, np.array(lumpy.vertices), lumpy.faces.astype(np.int64))
    kept = np.setdiff1d(np.arange(200), [one.number for one in lost])
    assert len(kept) > 10
    assert np.linalg.norm(points - at[kept], axis=1) == pytest.approx(np.sqrt(square[kept]), abs=1e-9)
