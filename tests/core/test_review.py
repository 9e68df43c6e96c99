"""The page for a second pair of eyes, and the answer as it comes back."""

import base64
import json
import re

import numpy as np
import pytest

from tests.shapes import ball, box
from ulvet.core.geometry.mesh import translated
from ulvet.core.proof.review import Review, UnusableReview, read_review, review_page, seal_of


def page_data(page):
    return json.loads(re.search(r'<script type="application/json" id="data">(.*?)</script>', page.decode(), re.S)[1])


def answered(**more):
    said = {"build": "k", "by": "Wren", "verdict": "yes", "words": "good", "seal": "", **more}
    bare = Review.model_validate(said)
    return bare.model_copy(update={"seal": seal_of(bare)}).model_dump_json().encode()


def test_the_parts_are_read_back_from_the_page_as_they_are():
    parts = [("body", box(10, 8, 30)), ("ball", translated(ball(4.0), np.array([20.0, 0, 5])))]
    data = page_data(review_page("Reed imp", "version 1", "k", parts, ["Wall 0.2 mm"], "a.json"))
    assert (data["name"], data["build"], data["known"]) == ("Reed imp", "k", ["Wall 0.2 mm"])
    for said, (name, mesh) in zip(data["parts"], parts, strict=True):
        steps = np.frombuffer(base64.b64decode(said["corners"]), "<u2").reshape(-1, 3)
        corners = np.array(data["low"]) + steps / 65535 * np.array(data["size"])
        assert said["name"] == name
        assert np.abs(corners - mesh.vertices).max() < 0.001
        assert np.array_equal(np.frombuffer(base64.b64decode(said["faces"]), "<u4").reshape(-1, 3), mesh.faces)


def test_nothing_that_is_written_ends_the_page_s_data_or_its_title():
    name = "</script><script>alert(1)</script><title>&"
    page = review_page(name, name, "k", [("body", box(1, 1, 1))], [name], "a.json")
    assert page.decode().count("<script") == 2
    assert page_data(page)["known"] == [name]


def test_a_figure_of_200_000_triangles_stays_under_8_mb():
    mesh = ball(20.0, rounds=7)
    assert 130_000 < len(mesh.faces) < 200_000
    per_triangle = len(review_page("x", "", "k", [("body", mesh)], [], "a.json")) / len(mesh.faces)
    assert per_triangle * 200_000 < 8e6


def test_it_asks_nothing_of_any_other_place():
    page = review_page("x", "", "k", [("body", box(1, 1, 1))], [], "a.json").decode()
    assert not re.findall(r"(?:src|href)=|https?://|import\s|fetch\(", page)


def test_an_answer_comes_back_as_it_was_said():
    pins = [{"part": "body", "point": [1.25, -0.001, 3.0], "says": "Zu dünn ✓"}]
    review = read_review(answered(pins=pins, verdict="no"))
    assert (review.verdict, review.pins[0].says) == ("no", "Zu dünn ✓")


@pytest.mark.parametrize("changed", [("good", "great"), ("yes", "no"), ("Wren", "Tern"), ("0.5", "0.6")])
def test_an_answer_that_was_altered_is_refused(changed):
    data = answered(pins=[{"part": "body", "point": [0.5, 0, 0], "says": ""}]).replace(
        *(one.encode() for one in changed)
    )
    with pytest.raises(UnusableReview, match="changed after it was saved"):
        read_review(data)


@pytest.mark.parametrize("data", [b"", b"{}", b"[1]", b'{"review": "other/1"}', b"\xff\xfe"])
def test_what_is_no_answer_is_refused(data):
    with pytest.raises(UnusableReview, match="no answer"):
        read_review(data)
