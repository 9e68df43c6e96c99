"""What must hold whatever the figure."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_build import built
from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder, subdivided, tube
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.findings.finding import AddSteps
from ulvet.core.geometry.mesh import Mesh, area, volume
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight
from ulvet.core.geometry.welding import weld_corners
from ulvet.core.mend.check import check_mesh
from ulvet.core.recipe.step import Part
from ulvet.core.tolerances import BENCH_TOLERANCES

SHAPES = {
    "ball": ball(6, rounds=3),
    "box": subdivided(subdivided(box(9, 7, 5))),
    "tube": tube(6, 3, 8, 32),
    "two": concatenated(ball(4, rounds=3), box(3, 3, 9, at=(8, 0, 0))),
}
shapes = st.sampled_from(sorted(SHAPES)).map(SHAPES.get)
seeds = st.integers(0, 10_000)


def shuffled(mesh, seed):
    """The same surface with faces, corners and vertices in another order."""
    rng = np.random.default_rng(seed)
    order = rng.permutation(len(mesh.vertices))
    back = np.argsort(order)
    faces = back[mesh.faces][rng.permutation(len(mesh.faces))]
    turns = rng.integers(0, 3, len(faces))
    return Mesh(mesh.vertices[order], np.stack([np.roll(f, t) for f, t in zip(faces, turns, strict=True)]))


def damaged(mesh, seed):
    """With holes, turned faces, doubles and loose corners."""
    rng = np.random.default_rng(seed)
    faces = mesh.faces.copy()
    turned = rng.choice(len(faces), 5, replace=False)
    faces[turned] = faces[turned][:, ::-1]
    faces = np.delete(faces, rng.choice(len(faces), 3, replace=False), axis=0)
    faces = np.concatenate([faces, faces[rng.choice(len(faces), 4)]])
    return Mesh(mesh.vertices, faces)


def mended(mesh, rounds=12):
    """Every mend remedy applied, the first of the first finding each time, until none is offered."""
    part = Part("figure", mesh)
    for _ in range(rounds):
        remedies = [r for f in check_mesh(part, 1.0, BENCH_TOLERANCES, DEFAULT_BENCH.setup()) for r in f.remedies]
        if not remedies:
            return part.mesh
        assert isinstance(remedies[0].change, AddSteps)
        for step in remedies[0].change.steps:
            part, _ = step.change(part, {"factor": 1.0})
    raise AssertionError("the remedies do not come to an end")


@given(shapes, seeds)
@settings(max_examples=of_all(40), deadline=None)
def test_order_means_nothing_to_measures_and_topology(mesh, seed):
    other = shuffled(mesh, seed)
    assert np.isclose(area(other), area(mesh), rtol=1e-12)
    assert np.isclose(volume(other), volume(mesh), rtol=1e-9)
    one, two = edges_of(mesh), edges_of(other)
    assert face_shells(mesh, one)[0] == face_shells(other, two)[0]
    assert is_watertight(one) == is_watertight(two)


@given(shapes, seeds)
@settings(max_examples=of_all(40), deadline=None)
def test_any_damage_of_the_simple_kinds_is_mended_by_the_remedies_offered(mesh, seed):
    after = mended(damaged(mesh, seed))
    assert is_watertight(edges_of(after))
    # Lost faces are closed flat over their rim: little volume is lost, and none is turned inside out.
    assert np.isclose(volume(after), volume(mesh), rtol=0.03)
    assert not check_mesh(Part("figure", after), 1.0, BENCH_TOLERANCES, DEFAULT_BENCH.setup())


@given(shapes, seeds)
@settings(max_examples=of_all(20), deadline=None)
def test_what_is_taken_apart_and_welded_is_the_same_surface(mesh, seed):
    rounded = Mesh(mesh.vertices.astype(np.float32).astype(float), mesh.faces)
    loose = rounded.vertices[rounded.faces].reshape(-1, 9).astype(np.float32)
    vertices, faces = weld_corners(loose[np.random.default_rng(seed).permutation(len(loose))])
    assert len(vertices) == len(np.unique(rounded.vertices, axis=0))
    assert is_watertight(edges_of(Mesh(vertices, faces)))
    assert np.isclose(volume(Mesh(vertices, faces)), volume(rounded), rtol=1e-9)


@given(st.floats(0.2, 2))
@settings(max_examples=of_all(8), deadline=None)
def test_size_scales_lengths_surfaces_and_volumes_and_nothing_else(factor):
    mesh = concatenated(box(20, 20, 6), cylinder(3, 20, 32, at=(10, 10, 0)))
    (one,), (other,) = built(mesh).facts, built(mesh, Edition(factor=factor)).facts
    assert np.allclose(np.array(other.size_mm), np.array(one.size_mm) * factor)
    assert np.isclose(other.area_mm2, one.area_mm2 * factor**2)
    assert np.isclose(other.volume_mm3, one.volume_mm3 * factor**3)
    assert (other.triangles, other.shells, other.watertight) == (one.triangles, one.shells, one.watertight)


def test_the_same_file_in_other_places_and_units_has_the_same_findings():
    mesh = concatenated(box(20, 20, 6), cylinder(0.2, 24, 32, at=(10, 10, 5)))
    there = Mesh(mesh.vertices + np.array([300.0, -40, 70]), mesh.faces)
    one, other = built(mesh).findings, built(there).findings
    assert [(f.code, f.severity, f.count, round(f.measured, 6)) for f in one] == [
        (f.code, f.severity, f.count, round(f.measured, 6)) for f in other
    ]
    assert np.allclose([f.where.point for f in one], [f.where.point for f in other], atol=0.5)
