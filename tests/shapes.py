"""Shapes of known size, made by hand so that a test knows every number about them."""

import struct

import numpy as np

from ulvet.core.geometry.mesh import Mesh, concatenated

__all__ = ["ball", "box", "concatenated", "cylinder", "subdivided", "tapered", "tube", "turned"]


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    """A box with its lowest corner at ``at``: 8 vertices, 12 faces."""
    corners = np.array([[i, j, k] for i in (0, 1) for j in (0, 1) for k in (0, 1)], float)
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    faces = [half for a, b, c, d in quads for half in ((a, b, c), (a, c, d))]
    return Mesh(corners * [x, y, z] + at, np.array(faces, np.int32))


def ball(radius: float, at: tuple[float, float, float] = (0, 0, 0), rounds: int = 4) -> Mesh:
    """A sphere of ``8 * 4**rounds`` faces, from an octahedron."""
    vertices = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], float)
    faces = [(0, 2, 4), (2, 1, 4), (1, 3, 4), (3, 0, 4), (2, 0, 5), (1, 2, 5), (3, 1, 5), (0, 3, 5)]
    mesh = Mesh(vertices, np.array(faces, np.int32))
    for _ in range(rounds):
        mesh = subdivided(mesh)
        mesh = Mesh(mesh.vertices / np.linalg.norm(mesh.vertices, axis=1)[:, None], mesh.faces)
    return Mesh(mesh.vertices * radius + at, mesh.faces)


def cylinder(radius: float, height: float, sides: int = 64, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    """An upright solid bar standing at ``at``."""
    return _turned([(radius, 0), (radius, height)], sides, at, closed=False)


def tapered(foot: float, top: float, height: float, sides: int = 48) -> Mesh:
    """An upright solid bar at the origin, ``foot`` mm across below and ``top`` above."""
    return _turned([(foot / 2, 0), (top / 2, height)], sides, (0, 0, 0), closed=False)


def turned(mesh: Mesh, axis: str, degrees: float) -> Mesh:
    """The mesh turned about x, y or z through the origin."""
    cos, sin = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    about = {"x": [[1, 0, 0], [0, cos, -sin], [0, sin, cos]], "y": [[cos, 0, sin], [0, 1, 0], [-sin, 0, cos]]}
    about["z"] = [[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]]
    return Mesh(mesh.vertices @ np.array(about[axis]).T, mesh.faces)


def tube(outer: float, inner: float, height: float, sides: int = 96) -> Mesh:
    """An upright tube open at both ends, its wall ``outer - inner``."""
    return _turned([(outer, 0), (outer, height), (inner, height), (inner, 0)], sides, (0, 0, 0), closed=True)


def subdivided(mesh: Mesh) -> Mesh:
    """Every face cut into four at the middles of its sides."""
    sides = np.sort(np.stack([mesh.faces, np.roll(mesh.faces, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    pairs, index = np.unique(sides, axis=0, return_inverse=True)
    ab, bc, ca = (index.reshape(-1, 3) + len(mesh.vertices)).T
    a, b, c = mesh.faces.T
    faces = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    return Mesh(np.concatenate([mesh.vertices, mesh.vertices[pairs].mean(axis=1)]), faces.astype(np.int32))


def _turned(profile: list[tuple[float, float]], sides: int, at: tuple[float, float, float], closed: bool) -> Mesh:
    """A profile of (radius, height) turned about z; an open one is capped at its two ends."""
    angle = np.arange(sides) * 2 * np.pi / sides
    rings = [np.stack([r * np.cos(angle), r * np.sin(angle), np.full(sides, z)], axis=1) for r, z in profile]
    here = np.arange(sides)
    onward = (here + 1) % sides
    faces = []
    for k in range(len(rings) if closed else len(rings) - 1):
        low, high = k * sides, (k + 1) % len(rings) * sides
        faces += [
            np.stack([low + here, low + onward, high + onward], 1),
            np.stack([low + here, high + onward, high + here], 1),
        ]
    points = np.concatenate(rings)
    if not closed:
        middles = np.array([[0, 0, profile[0][1]], [0, 0, profile[-1][1]]])
        first, last = len(points), len(points) + 1
        top = (len(rings) - 1) * sides
        faces += [
            np.stack([np.full(sides, first), onward, here], 1),
            np.stack([np.full(sides, last), top + here, top + onward], 1),
        ]
        points = np.concatenate([points, middles])
    return Mesh(points + at, np.concatenate(faces).astype(np.int32))


def binary_stl(corners, said=None):
    head = b"solid made by a test".ljust(80) + struct.pack("<I", len(corners) if said is None else said)
    return head + b"".join(struct.pack("<12fH", 0, 0, 0, *np.ravel(c), 0) for c in corners)


TRIANGLE = [[0, 0, 0], [1, 0, 0], [0, 1, 0]]


BAD = {
    "empty.stl": (b"", "empty"),
    "cut.stl": (binary_stl([TRIANGLE] * 20)[:-7], "cut off"),
    "short.stl": (b"solid"[:3], "cut off"),
    "boast.stl": (binary_stl([TRIANGLE], said=4_000_000_000), "promises"),
    "text.stl": (b"Dear reader, this is a letter and no figure at all. " * 4, "not an STL"),
    "solid.stl": (b"solid x\nfacet normal 0 0 1\nhello\n", "line 3"),
    "halfway.stl": (b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n", "cut off"),
    "two.stl": (b"solid x\nfacet normal 0 0 1\nouter loop\nvertex 0 0\n", "three numbers"),
    "nan.stl": (binary_stl([[[0, 0, 0], [1, 0, 0], [0, float("nan"), 0]]]), "not numbers"),
    "inf.stl": (binary_stl([[[0, 0, 0], [1, 0, 0], [0, float("inf"), 0]]]), "not numbers"),
    "point.stl": (binary_stl([[[1, 1, 1]] * 3]), "no size"),
    "none.stl": (binary_stl([]), "no faces"),
    "really-obj.stl": (b"# x\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n" + b"# more\n" * 20, "rename it to .obj"),
    "really-stl.obj": (binary_stl([TRIANGLE]), "rename it to .stl"),
    "range.obj": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 7\n", "vertex 7"),
    "back.obj": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf -1 -2 -9\n", "points to vertex"),
    "zero.obj": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n", "cannot exist"),
    "nan.obj": (b"v 0 0 0\nv 1 0 0\nv 0 nan 0\nf 1 2 3\n", "not numbers"),
    "two.obj": (b"v 0 0 0\nv 1 0 0\nf 1 2\n", "three corners"),
    "word.obj": (b"v 0 zero 0\n", "not made of numbers"),
    "flat.obj": (b"v 0 0\n", "fewer than three"),
    "letters.obj": (b"just a text\n", "no OBJ vertices"),
    "binary.obj": (bytes(range(256)), "other bytes"),
    "points.obj": (b"v 0 0 0\nv 1 0 0\n", "no faces"),
    "figure.png": (b"\x89PNG", "3MF and GLB"),
}
