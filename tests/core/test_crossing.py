"""Crossing faces against exact arithmetic, and on meshes whose answer is known."""

from fractions import Fraction

import numpy as np
import pytest
import shapely

from tests.depth import of_all
from tests.shapes import ball, box
from ulvet.core.geometry.crossing import crossing_faces
from ulvet.core.geometry.mesh import Mesh, concatenated, translated
from ulvet.core.geometry.predicates import side_of_line, side_of_plane


def cross(u, w):
    return [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]]


def dot(u, w):
    return sum(a * b for a, b in zip(u, w, strict=True))


def less(u, w):
    return [a - b for a, b in zip(u, w, strict=True)]


def span_on(line, corners, sides):
    """Where a triangle meets the line of two planes, by fractions; None where it does not."""
    at = [dot(line, corner) for corner, side in zip(corners, sides, strict=True) if side == 0]
    for i, j in ((0, 1), (1, 2), (2, 0)):
        if sides[i] * sides[j] < 0:
            share = sides[i] / (sides[i] - sides[j])
            at.append(dot(line, corners[i]) + share * (dot(line, corners[j]) - dot(line, corners[i])))
    return (min(at), max(at)) if at else None


def truly_cross(points):
    """Whether two triangles (6, 3) share more than a point, beyond a common side."""
    first, second = ([[Fraction(float(x)) for x in p] for p in half] for half in (points[:3], points[3:]))
    shared = sum(p in second for p in first)
    normal = cross(less(first[1], first[0]), less(first[2], first[0]))
    other = cross(less(second[1], second[0]), less(second[2], second[0]))
    if shared == 3 or not any(normal) or not any(other):
        return False
    sides = [dot(normal, less(p, first[0])) for p in second]
    if not any(sides):
        drop = max(range(3), key=lambda k: abs(normal[k]))
        flat = [shapely.Polygon([[float(x) for k, x in enumerate(p) if k != drop] for p in t]) for t in (first, second)]
        return flat[0].intersection(flat[1]).area > 0
    if shared == 2:
        return False
    line = cross(normal, other)
    mine = span_on(line, first, [dot(other, less(p, second[0])) for p in first])
    its = span_on(line, second, sides)
    return bool(mine and its and max(mine[0], its[0]) < min(mine[1], its[1]))


@pytest.mark.parametrize("grid", [2, 3, 6, None])
def test_pairs_of_triangles_are_settled_as_exact_arithmetic_settles_them(grid) -> None:
    rng = np.random.default_rng(grid or 1)
    crossed = 0
    tried = of_all(3000)
    for _ in range(tried):
        points = rng.random((6, 3)) if grid is None else rng.integers(0, grid, (6, 3)).astype(float)
        found = crossing_faces(Mesh(points, np.array([[0, 1, 2], [3, 4, 5]], np.int32)))
        assert (len(found.pairs) == 1) == truly_cross(points), points
        crossed += len(found.pairs)
    assert 0.05 * tried < crossed < 0.87 * tried


def test_sides_are_right_where_floats_are_not() -> None:
    rng = np.random.default_rng(3)
    doubtful = 0
    for _ in range(2000):
        a, b, c = rng.random((3, 3)) * 1e6
        s, t = rng.random(2)
        d = a + s * (b - a) + t * (c - a)
        d[rng.integers(3)] += rng.integers(-2, 3) * 1e-10
        v = np.array([a, b, c, d])
        exact = [[Fraction(float(x)) for x in p] for p in v]
        rows = [less(p, exact[3]) for p in exact[:3]]
        value = dot(rows[0], cross(rows[1], rows[2]))
        assert side_of_plane(v, 0, 1, 2, 3) == (value > 0) - (value < 0)
        doubtful += np.sign(np.linalg.det(v[:3] - v[3])) != (value > 0) - (value < 0)
        left = (exact[0][0] - exact[3][0]) * (exact[1][1] - exact[3][1])
        right = (exact[0][1] - exact[3][1]) * (exact[1][0] - exact[3][0])
        assert side_of_line(v, 0, 1, 3, 0, 1) == (left > right) - (left < right)
    assert doubtful > 50


def test_clean_figures_have_none_wherever_they_stand() -> None:
    for mesh in (ball(10), box(3, 4, 5), translated(ball(3, rounds=5), np.array([1e6, -1e6, 3e5]))):
        found = crossing_faces(mesh)
        assert found.whole and not len(found.pairs)


def test_what_crosses_is_found_and_nothing_else() -> None:
    a, b = ball(5), ball(5, at=(6, 0, 0))
    both = concatenated(a, b)
    found = crossing_faces(both)
    n = len(a.faces)
    assert len(found.pairs) and ((found.pairs[:, 0] < n) & (found.pairs[:, 1] >= n)).all()
    radius = np.linalg.norm(both.vertices[both.faces[found.faces]].mean(axis=1) - [3, 0, 0], axis=1)
    assert np.abs(radius - 4).max() < 0.8
    assert not len(crossing_faces(concatenated(a, translated(a, np.array([10.0, 0, 0])))).pairs)  # touching in a point
    # A box on a box meets it in a plane, whose faces overlap.
    assert len(crossing_faces(concatenated(box(4, 4, 4), box(2, 2, 2, at=(0, 0, 4)))).pairs)


def test_search_is_given_up_and_says_so() -> None:
    rng = np.random.default_rng(0)
    starts = rng.random((4000, 3))
    loose = np.stack([starts, starts + rng.normal(size=(4000, 3)), starts + rng.normal(size=(4000, 3))], axis=1)
    soup = Mesh(loose.reshape(-1, 3), np.arange(12000, dtype=np.int32).reshape(-1, 3))
    found = crossing_faces(soup)
    assert not found.whole and len(found.pairs) >= 250_000
