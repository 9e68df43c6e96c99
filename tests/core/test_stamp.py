"""Pictures pressed into surfaces: their depth, what stays untouched, and what cannot be pressed."""

from io import BytesIO
from typing import get_args

import numpy as np
import pytest
from PIL import Image, ImageDraw

from tests.shapes import ball, box, concatenated
from ulvet.core.geometry.mesh import volume
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.sources.picture import (
    Font,
    Picture,
    UnusablePicture,
    narrowest_stroke,
    picture_of,
    picture_of_text,
    shipped_font,
    softened,
)
from ulvet.core.stamp.pressing import CannotPress, StampPlacement, press_picture

BLOCK = box(20, 20, 10)
UP = np.array([0.0, 0, 1])


def png(image, kind="PNG"):
    data = BytesIO()
    image.save(data, kind)
    return data.getvalue()


def drawn(*shapes, side=256):
    """Shapes drawn in black on white."""
    image = Image.new("L", (side, side), 255)
    pen = ImageDraw.Draw(image)
    for shape, *where in shapes:
        getattr(pen, shape)(where, fill=0)
    return image


@pytest.fixture(scope="module")
def ring():
    """A ring with a bar beside it, softened as its strokes bear."""
    image = drawn(("ellipse", 40, 40, 190, 190), ("rectangle", 220, 30, 236, 220))
    ImageDraw.Draw(image).ellipse((90, 90, 140, 140), fill=255)
    return softened(picture_of(png(image)), 2.0)[0]


def mark(point, view=UP, width=8.0, depth=0.4, sunk=False, turn=0.0):
    return StampPlacement(np.array(point, float), np.array(view, float), width, depth, sunk, turn)


@pytest.mark.parametrize("sunk", [False, True])
def test_on_a_plane_strokes_have_their_depth_and_volume(ring, sunk):
    done = press_picture(BLOCK, ring, mark((10, 10, 10), sunk=sunk))
    assert done.depth_min == pytest.approx(0.4, rel=0.05)
    assert done.depth_max == pytest.approx(0.4, rel=0.01)
    pressed = ring.strength.mean() * 64 * 0.4
    assert volume(done.mesh) - volume(BLOCK) == pytest.approx(-pressed if sunk else pressed, rel=0.01)
    assert done.back_moved == 0
    assert done.landed == pytest.approx(1, abs=0.01)
    assert is_watertight(edges_of(done.mesh))
    kept = {bytes(vertex) for vertex in np.ascontiguousarray(done.mesh.vertices)}
    assert all(bytes(vertex) in kept for vertex in BLOCK.vertices)


@pytest.mark.parametrize("width", [4, 10])
def test_on_a_ball_strokes_are_as_deep_at_the_edge_as_in_the_middle(ring, width):
    globe = ball(10, rounds=5)
    done = press_picture(globe, ring, mark((0, -10, 0), (0, -1, 0), width, 0.3))
    assert done.depth_min == pytest.approx(0.3, rel=0.05)
    assert done.depth_max == pytest.approx(0.3, rel=0.05)
    assert done.back_moved == 0
    behind = globe.vertices[globe.vertices[:, 1] > 0]
    kept = {bytes(vertex) for vertex in np.ascontiguousarray(done.mesh.vertices)}
    assert all(bytes(vertex) in kept for vertex in behind)


def test_it_stays_on_what_is_seen_first_and_hangs_together():
    line = Picture(np.ones((20, 20)))
    # A shelf before half of a wall hides it from the stamp, and the wall behind is not part of the shelf.
    shelf = concatenated(box(20, 2, 20), box(20, 2, 10, at=(0, -6, 0)))
    done = press_picture(shelf, line, mark((10, -6, 9), (0, -1, 0), 8, 0.3))
    moved = done.mesh.vertices[done.mesh.vertices[:, 1] < -6.01]
    assert moved[:, 2].max() <= 10
    wall = done.mesh.vertices[(done.mesh.vertices[:, 1] > -1) & (done.mesh.vertices[:, 1] < -0.01)]
    assert not len(wall)
    assert done.landed == pytest.approx(5 / 8, abs=0.1)


def test_triangles_go_where_the_picture_bends_and_nowhere_else(ring):
    fine = press_picture(BLOCK, ring, mark((10, 10, 10)))
    swell = np.sin(np.linspace(0, np.pi, 256)) ** 2
    hill = press_picture(BLOCK, Picture(np.outer(swell, swell)), mark((10, 10, 10)))
    assert len(hill.mesh.faces) < 0.1 * len(fine.mesh.faces)
    assert volume(hill.mesh) - volume(BLOCK) == pytest.approx(64 * 0.4 / 4, rel=0.03)
    points = fine.mesh.vertices[fine.mesh.vertices[:, 2] > 9.9, :2]
    away = np.abs(points - 10).max(axis=1)
    assert (away < 4.2).mean() > 0.95
    # The empty corner of the picture stays coarse.
    empty = (points[:, 0] < 6.8) & (points[:, 1] < 6.8)
    assert empty.sum() < 0.02 * len(points)


def test_upright_is_up_and_a_turn_goes_anticlockwise():
    corner = Picture(np.zeros((40, 40)))
    corner.strength[2:12, 2:12] = 1  # upper left
    for turn, (x, z) in {0: (-1, 1), 90: (-1, -1)}.items():
        done = press_picture(BLOCK, corner, mark((10, 0, 5), (0, -1, 0), 8, 0.3, turn=turn))
        out = done.mesh.vertices[done.mesh.vertices[:, 1] < -0.2].mean(axis=0) - [10, 0, 5]
        assert (np.sign(out[0]), np.sign(out[2])) == (x, z)


def test_what_cannot_be_pressed_is_told(ring):
    with pytest.raises(CannotPress, match="no surface that is turned"):
        press_picture(BLOCK, ring, mark((80, 10, 10)))
    with pytest.raises(CannotPress, match=r"1\.00 mm, too thin"):
        press_picture(box(20, 20, 1), ring, mark((10, 10, 1), depth=1.5, sunk=True))
    with pytest.raises(CannotPress, match="larger than the figure"):
        press_picture(box(4, 4, 10), Picture(np.indices((20, 20)).sum(axis=0) % 2.0), mark((2, 2, 10), width=40))
    larger = press_picture(box(4, 4, 10), ring, mark((2, 2, 10), width=12))
    assert larger.landed < 0.6
    assert is_watertight(edges_of(larger.mesh))


def test_pictures_are_dark_strokes_on_white_unless_inverted():
    image = drawn(("rectangle", 100, 0, 119, 255))
    assert picture_of(png(image)).strength.mean() == pytest.approx(20 / 256, abs=1e-3)
    assert picture_of(png(image), inverted=True).strength.mean() == pytest.approx(236 / 256, abs=1e-3)
    seen_through = Image.new("RGBA", (64, 64), (0, 0, 0, 0))
    ImageDraw.Draw(seen_through).rectangle((0, 0, 31, 63), fill=(0, 0, 0, 255))
    assert picture_of(png(seen_through)).strength.mean() == pytest.approx(0.5)
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path d="M0 0h5v10H0z"/></svg>'
    assert picture_of(svg).strength.mean() == pytest.approx(0.5, abs=0.01)
    narrow = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 5000"><path d="M0 0h1v2000H0z"/></svg>'
    assert max(picture_of(narrow).strength.shape) <= 1024


def test_strokes_are_measured_and_never_softened_away():
    picture = picture_of(png(drawn(("rectangle", 20, 20, 29, 230), ("rectangle", 120, 20, 199, 230))))
    assert narrowest_stroke(picture) == pytest.approx(10, abs=1.5)
    soft, length = softened(picture, 50.0)
    assert length == pytest.approx(10 / 6, rel=0.15)
    assert soft.strength.max() > 0.99
    assert soft.strength[:, 24].max() > 0.97


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"GIF89a....", "neither"),
        (b"<html><body/></html>", "neither"),
        (b"\x89PNG\r\n\x1a\n cut off", "damaged"),
        (png(Image.new("L", (8, 8), 255)), "blank"),
        (png(Image.new("L", (5000, 2), 0)), "4096 a side"),
        (b"\x89PNG" + bytes(20_000_001), "20 MB"),
        (b'<!DOCTYPE svg [<!ENTITY a "b">]><svg/>', "document type"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"><image href="file:///etc/hosts"/></svg>', "other pictures"),
        (b'<svg xmlns="http://www.w3.org/2000/svg"', "neither"),
        (b'<?xml version="1.0" encoding="nowhere"?><svg/>', "neither"),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><g id="a"><path d="M0 0h5v5z"/></g>'
            b'<g id="b"><use href="#a"/><use href="#a"/></g><use href="#b"/></svg>',
            "repeats",
        ),
        (b'<svg xmlns="http://www.w3.org/2000/svg" width="0" height="5"></svg>', "cannot be drawn"),
    ],
)  # fmt: skip
def test_other_files_are_refused_with_a_sentence(data, says):
    with pytest.raises(UnusablePicture, match=says):
        picture_of(data)


def test_letters_differ_by_font_and_bold_ones_have_the_wider_strokes():
    drawn = {font: picture_of_text("Fen 7", shipped_font(font)) for font in get_args(Font)}
    assert len({picture.hash for picture in drawn.values()}) == 4
    assert drawn["bold"].strength.sum() > 1.3 * drawn["plain"].strength.sum()
