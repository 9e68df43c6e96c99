"""Thin walls that are filled, since their faces are too long to move."""

import numpy as np
import pytest

from tests.core.test_gauge_remedies import built, of, remedied
from tests.core.test_handling import BLOCK, united
from tests.shapes import box, cylinder, subdivided
from ulvet.core.gauge.thickening.fill_spheres import fill_thin_walls
from ulvet.core.gauge.thickening.thicken import thicken_walls
from ulvet.core.gauge.walls.thickness import measure_thickness
from ulvet.core.geometry.mesh import Mesh, face_normals, translated, volume
from ulvet.core.mend.diagnosis import diagnose

FIN = united(BLOCK, box(16, 0.4, 14, at=(-8, -0.2, 5)))
"""A fin of 0.4 mm on a block, with two faces a side."""


@pytest.mark.parametrize("sides", [6, pytest.param(12, marks=pytest.mark.deep)])
def test_a_pole_of_long_faces_is_thick_all_along_and_what_it_stands_on_stays_flat(sides):
    pole = united(BLOCK, translated(cylinder(0.2, 12.5, sides), [4, 2, 5.5]))
    assert np.diff(np.unique(np.round(pole.vertices[:, 2], 3))).max() > 11  # nothing between its foot and its tip
    (thin,) = of(built(pole), "thin-wall")
    after = remedied(pole, thin, "Thicken here to 0.74")
    assert not of(after, "thin-wall")
    made = after.parts[0].mesh
    assert diagnose(made, 1e-9).sound
    assert corners(BLOCK) <= corners(made)
    beside = np.hypot(*(made.vertices[:, :2] - [4, 2]).T) > 1
    top = beside[made.faces].any(axis=1) & (made.vertices[made.faces][:, :, 2].min(axis=1) > 5.9)
    assert top.any() and np.allclose(face_normals(made)[top], [0, 0, 1])


@pytest.mark.parametrize("rings", [0, 3])
def test_a_pole_on_long_faces_does_not_tilt_them_however_fine_it_is_itself(rings):
    pole = cylinder(0.25, 12.5, 16)
    for _ in range(rings):
        pole = subdivided(pole)
    mesh = united(BLOCK, translated(pole, [4, 2, 5.5]))
    made, count, _ = thicken_walls(mesh, 0.74, 2.0, np.array([[4.0, 1.8, 8.0]]), 4.0)
    far = np.hypot(*(made.vertices[:, :2] - [4, 2]).T) > 1
    assert count and set(np.round(made.vertices[far, 2], 9)) == {0.0, 6.0}


def test_only_what_is_near_the_place_is_filled_and_it_is_as_thick_as_asked():
    made = fill_thin_walls(FIN, 0.8, 2.0, np.array([[0.0, -0.2, 12.0]]), 3.0)
    assert diagnose(made, 1e-9).sound and corners(FIN) <= corners(made)
    new = np.array(sorted(corners(made) - corners(FIN)))
    assert np.linalg.norm(new - [0, 0, 12], axis=1).max() <= 5.2
    walls = measure_thickness(made)
    near = np.linalg.norm(walls.points - [0, 0, 12], axis=1) <= 2
    assert near.any() and walls.walls[near].min() >= 0.8
    # No more stands out than what is missing, but for the many sides of the spheres.
    assert np.abs(new[:, 1]).max() < 0.4 * 1.1


def test_it_stands_out_less_where_the_wall_is_thicker():
    wedge = box(6, 1.0, 12)
    taper = wedge.vertices.copy()
    taper[:, 1] = (taper[:, 1] - 0.5) * np.where(taper[:, 2] > 6, 0.3, 1.1)
    mesh = Mesh(taper, wedge.faces)
    made = fill_thin_walls(mesh, 0.8, 2.0, np.array([[3.0, 0.2, 11.0]]), 9.0)
    assert volume(made) > volume(mesh)
    out = np.abs(made.vertices[:, 1]) - (0.55 - made.vertices[:, 2] / 30)
    low, high = made.vertices[:, 2] < 2, made.vertices[:, 2] > 11
    # Where it is 0.97 mm and more nothing is filled; at the tip 0.25 mm a side is missing.
    assert out[low].max() < 1e-9 and 0.2 < np.median(out[high]) < 0.3


def test_what_is_thick_enough_or_open_stays_as_it_was():
    place = np.array([[0.0, -0.2, 12.0]])
    assert fill_thin_walls(FIN, 0.4, 2.0, place, 3.0) is FIN
    opened = Mesh(FIN.vertices, FIN.faces[FIN.vertices[FIN.faces][:, :, 2].max(axis=1) > 0])
    assert len(opened.faces) < len(FIN.faces)
    assert fill_thin_walls(opened, 0.8, 2.0, place, 3.0) is opened
    # Where nothing can be filled its corners move, though its long faces tilt by that.
    made, count, _ = thicken_walls(opened, 0.8, 2.0, np.array([[0.0, -0.2, 19.0]]), 9.0)
    top = made.vertices[:, 2] > 18
    assert count and np.ptp(made.vertices[top, 1]) >= 0.8 * 0.99


def corners(mesh):
    return {tuple(vertex) for vertex in mesh.vertices}
