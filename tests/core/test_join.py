"""Solids joined: how they hold, the round between them, and what stays to the bit."""

import igl
import numpy as np
import pytest
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from tests.shapes import ball, box, concatenated, cylinder, tube
from ulvet.core.first_forms.shapes import form_mesh
from ulvet.core.geometry.mesh import Mesh, face_normals, translated, volume
from ulvet.core.geometry.rays import Rays
from ulvet.core.geometry.solids import CannotJoin, mesh_of, solids_of
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight
from ulvet.core.join.joining import join_meshes
from ulvet.core.mend.diagnosis import diagnose

BLOCK = box(20, 20, 10)


def peg(sunk=3.0, radius=2.0):
    return cylinder(radius, 10, 96, at=(10, 10, 10 - sunk))


def is_solid(mesh):
    edges = edges_of(mesh)
    return is_watertight(edges) and not edges.nonmanifold.any() and not edges.disagreeing.any()


def crosses_itself(mesh):
    """Whether any edge passes through a face that it shares no corner with, by rays along the edges."""
    ends = edges_of(mesh).ends
    a, b = mesh.vertices[ends[:, 0]], mesh.vertices[ends[:, 1]]
    long = np.linalg.norm(b - a, axis=1)
    kept = long > 0.02
    a, b, long, ends = a[kept], b[kept], long[kept], ends[kept]
    way = (b - a) / long[:, None]
    distance, face = Rays(mesh).first(a + way * long[:, None] * 0.05, way)
    met = distance < 0.9 * long
    apart = ~(mesh.faces[face][:, :, None] == ends[:, None, :]).any(axis=(1, 2))
    steep = np.abs(np.einsum("ij,ij->i", face_normals(mesh)[face], way)) > 0.02
    return bool((met & apart & steep).any())


@pytest.mark.parametrize("sunk", [0.5, 3.0, 6.0])
def test_a_peg_is_measured_by_its_depth_and_its_section(sunk):
    done = join_meshes(BLOCK, peg(sunk))
    assert done.hold.overlap == pytest.approx(sunk, rel=0.01)
    assert done.hold.neck == pytest.approx(np.pi * 4, rel=0.01)
    assert done.hold.neck_width == pytest.approx(4, rel=0.01)
    assert volume(done.mesh) == pytest.approx(4000 + np.pi * 4 * (10 - sunk), rel=1e-3)
    assert done.sealed == 0
    assert is_solid(done.mesh)


def test_necks_are_of_the_least_section_whatever_meets():
    # Two balls hold by the flat circle in which they cross, not by the caps inside.
    balls = join_meshes(ball(10, rounds=5), ball(10, (15, 0, 0), rounds=5)).hold
    assert balls.neck == pytest.approx(np.pi * (100 - 7.5**2), rel=0.01)
    assert balls.overlap == pytest.approx(5, rel=0.01)
    # A rod through and through holds by two sections.
    rod = join_meshes(BLOCK, cylinder(2, 30, 96, at=(10, 10, -10))).hold
    assert rod.neck == pytest.approx(2 * np.pi * 4, rel=0.01)
    # A tube holds by its ring, whose wall is its thickness.
    pipe = join_meshes(BLOCK, translated(tube(4, 3, 12), np.array([10.0, 10, 8]))).hold
    assert pipe.neck == pytest.approx(np.pi * (16 - 9), rel=0.01)
    assert pipe.neck_width == pytest.approx(1, rel=0.01)
    assert pipe.overlap == pytest.approx(2, rel=0.01)
    # A ring about a post holds by where it lies on it.
    ring = join_meshes(cylinder(3, 20, 96), translated(tube(5, 2.5, 4), np.array([0.0, 0, 8]))).hold
    assert ring.neck == pytest.approx(2 * np.pi * 3 * 4, rel=0.01)
    # Two boxes corner by corner reach into each other by the lesser way.
    assert join_meshes(box(10, 10, 10), box(10, 10, 10, at=(8, 1, 0))).hold.overlap == pytest.approx(2)
    # Flush sides of equal boxes count in full.
    assert join_meshes(box(10, 10, 10), box(10, 10, 10, at=(8, 0, 0))).hold.neck == pytest.approx(100)


def inside_out(mesh):
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def test_a_cavity_is_sealed_by_a_lid_and_an_older_one_is_not_counted():
    bowl = join_meshes(box(20, 20, 2), concatenated(box(20, 20, 10), box(16, 16, 10, at=(2, 2, -1)))).mesh
    assert face_shells(bowl, edges_of(bowl))[0] == 1
    hollow = concatenated(box(20, 20, 10), inside_out(box(8, 8, 4, at=(6, 6, 3))))
    cup = Mesh(*open_box())
    lidded = join_meshes(cup, box(20, 20, 3, at=(0, 0, 8)))
    assert lidded.sealed == pytest.approx(16 * 16 * 6, rel=1e-6)
    assert join_meshes(hollow, peg()).sealed == 0
    assert volume(join_meshes(hollow, peg()).mesh) == pytest.approx(4000 - 256 + 4 * np.pi * 7, rel=1e-3)


def open_box():
    """A box of 20 x 20 x 10 with a room of 16 x 16 x 8 open to the top."""
    import manifold3d

    outer, inner = (
        manifold3d.Manifold(manifold3d.Mesh64(np.array(m.vertices), m.faces.astype(np.uint64)))
        for m in (box(20, 20, 10), box(16, 16, 10, at=(2, 2, 2)))
    )
    made = (outer - inner).to_mesh64()
    return np.array(made.vert_properties[:, :3]), np.array(made.tri_verts, np.int32)


@pytest.mark.parametrize("radius", [0.4, 1.0, 2.0])
def test_the_round_about_a_peg_has_the_volume_of_a_rolled_ball(radius):
    plain, rounded = join_meshes(BLOCK, peg()), join_meshes(BLOCK, peg(), radius)
    added = volume(rounded.mesh) - volume(plain.mesh)
    # The corner less a quarter circle, turned about the peg's axis (Pappus).
    turned = radius**2 * (2 + radius / 2) - np.pi / 4 * radius**2 * (2 + radius - 4 * radius / (3 * np.pi))
    assert added == pytest.approx(2 * np.pi * turned, rel=0.05)
    assert added < 2 * np.pi * turned
    assert is_solid(rounded.mesh)
    assert not crosses_itself(rounded.mesh)


@pytest.mark.parametrize("shift", [(13, 0, 0), (11, 3, 2), (6, 6, 5)])
def test_far_from_a_round_every_vertex_keeps_its_bits(shift):
    a, b = ball(10, rounds=5), translated(ball(6, rounds=5), np.array(shift, float))
    done = join_meshes(a, b, 1.0)
    kept = {bytes(vertex) for vertex in np.ascontiguousarray(done.mesh.vertices)}
    near = cKDTree(done.hold.rim.reshape(-1, 3))
    for mesh, other in ((a, b), (b, a)):
        away, _ = near.query(mesh.vertices)
        outside = igl.winding_number(other.vertices, other.faces.astype(np.int64), mesh.vertices) < 0.5
        far = mesh.vertices[(away > 3.0) & outside]
        assert len(far) > 50
        assert all(bytes(vertex) in kept for vertex in far)
    assert is_solid(done.mesh)
    assert not crosses_itself(done.mesh)
    assert volume(done.mesh) > volume(join_meshes(a, b).mesh)


def test_a_narrow_gap_beside_the_join_is_filled_without_crossing():
    arch = join_meshes(box(12, 4, 2, at=(0, 0, 1.2)), concatenated(box(2, 4, 3), box(2, 4, 3, at=(10, 0, 0)))).mesh
    done = join_meshes(box(20, 12, 2, at=(-4, -4, -1.5)), arch, 1.0)
    assert is_solid(done.mesh)
    assert not crosses_itself(done.mesh)


def test_what_cutting_leaves_along_the_seam_is_cleared_away():
    """Long narrow faces cut by small ones: among these are seams that had flat faces, and one that folded over."""
    host, cone = form_mesh("capsule", 12, 12, 26), form_mesh("cone", 3.6, 3.6, 11)
    random = np.random.default_rng(0)
    for number in range(34):
        about, lean, up = random.uniform(0, 2 * np.pi), random.uniform(1.2, 1.9), random.uniform(6, 20)
        leant = cone.vertices @ Rotation.from_euler("x", lean).as_matrix().T + [0, -5, up]
        bit = Mesh(leant @ Rotation.from_euler("z", about).as_matrix().T, cone.faces)
        if number in {4, 9, 21, 31}:
            found = diagnose(join_meshes(host, bit, 0.5 * (number != 9)).mesh, 1e-6)
            assert found.sound, {code: count for code, count in found.counts.items() if count}


def test_what_cannot_be_joined_is_told_with_what_to_do():
    with pytest.raises(CannotJoin, match=r"2\.00 mm lie between"):
        join_meshes(BLOCK, box(5, 5, 5, at=(0, 0, 12)))
    with pytest.raises(CannotJoin, match="does not close"):
        join_meshes(BLOCK, Mesh(BLOCK.vertices, BLOCK.faces[1:]))
    with pytest.raises(CannotJoin, match="inside out"):
        join_meshes(BLOCK, inside_out(peg()))
    with pytest.raises(CannotJoin, match=r"times what the smaller of the two can carry"):
        join_meshes(BLOCK, peg(), 60.0)
    swallowed = join_meshes(BLOCK, box(2, 2, 2, at=(9, 9, 4)))
    assert swallowed.hold.neck == 0
    assert swallowed.hold.overlap == pytest.approx(5)


def test_overlapping_shells_of_one_bit_are_united_first():
    twin = concatenated(peg(3), cylinder(2, 10, 96, at=(11, 10, 7)))
    done = join_meshes(BLOCK, twin)
    assert face_shells(done.mesh, edges_of(done.mesh))[0] == 1
    lens = 2 * 4 * np.arccos(0.25) - 0.5 * np.sqrt(15)
    assert volume(done.mesh) == pytest.approx(4000 + (8 * np.pi - lens) * 7, rel=2e-3)


def test_shells_that_share_a_corner_and_overlap_elsewhere_are_united():
    spike = np.array([[-1, 1, 1], [-1, 1, 0.3], [-1, 0.4, 1], [2, 2, 2.0]])
    faces = np.array([[0, 1, 2], [0, 3, 1], [1, 3, 2], [2, 3, 0]], np.int32)
    cube = box(2, 2, 2)
    (corner,) = np.flatnonzero((cube.vertices == 2).all(axis=1))
    number = np.append(np.arange(8, 11), corner).astype(np.int32)
    both = Mesh(np.concatenate([cube.vertices, spike[:3]]), np.concatenate([cube.faces, number[faces]]))
    assert volume(Mesh(spike, faces)) > 0 and is_watertight(edges_of(both))
    made = mesh_of(solids_of(both)[0].body)[0]
    # Two thirds of its way the spike is inside.
    assert volume(made) == pytest.approx(8 + volume(Mesh(spike, faces)) * (1 - (2 / 3) ** 3))
    assert not len(diagnose(made, 0.0).crossings.pairs)
