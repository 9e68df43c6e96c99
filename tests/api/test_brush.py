"""The brush: what a websocket takes and gives, and whom it lets in."""

import json
import struct
from contextlib import contextmanager

import numpy as np
import pytest
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from tests.api.conftest import brought, built
from tests.shapes import ball
from ulvet.core.formats.stl import stl_bytes

TOP = {"point": [0, 0, 10], "normal": [0, 0, 1]}


@pytest.fixture
def page(client, tmp_path):
    (tmp_path / "ball.stl").write_bytes(stl_bytes(ball(10, rounds=4)))
    return built(client, brought(client, tmp_path / "ball.stl"))


@contextmanager
def brush_on(served, page, **opens):
    with connect(f"ws{served.removeprefix('http')}/api/figures/{page['id']}/brush") as socket:
        socket.send(json.dumps({"build": page["build"]["key"], "part": "figure", **opens}))
        yield socket


def ask(socket, **said):
    socket.send(json.dumps(said))
    answer = socket.recv(timeout=30)
    return answer if isinstance(answer, bytes) else json.loads(answer)


def stroke(**fields):
    plain = {"kind": "stroke", "tool": "raise", "radius": 5, "amount": 1, "places": [TOP]}
    return {**plain, **fields}


def test_places_are_answered_with_what_they_moved_and_the_step_makes_the_same(client, served, page):
    factor = page["build"]["parts"][0]["facts"]["factor"]
    top = page["build"]["size_mm"][2] / factor
    place = {"point": [0, 0, top], "normal": [0, 0, 1]}
    with brush_on(served, page) as socket:
        assert json.loads(socket.recv(timeout=30)) == {"ready": True}
        answer = ask(socket, stroke=stroke(places=[place]))
        magic, count = struct.unpack_from("<4sI", answer)
        assert magic == b"ULT1"
        assert count > 3
        assert len(answer) == 8 + 4 * count * 8
        points = np.frombuffer(answer, "<f4", 3 * count, 8 + 4 * count).reshape(-1, 3)
        assert points[:, 2].max() == pytest.approx(top + 1 / factor, rel=1e-3)
        assert ask(socket, end=True) == {"ended": True}
        raised = {"point": [0, 0, top + 1 / factor], "normal": [0, 0, 1]}
        again = ask(socket, stroke=stroke(places=[raised], tool="lower", amount=1))
        assert struct.unpack_from("<4sI", again)[1] > 3
        back = ask(socket, leave=True)
        assert struct.unpack_from("<4sI", back)[1] > 3
    assert client.get(f"/figures/{page['id']}").json()["revision"] == page["revision"]


def test_what_a_brush_cannot_do_is_one_sentence_and_it_goes_on(served, page):
    with brush_on(served, page) as socket:
        socket.recv(timeout=30)
        assert "begun" in ask(socket, place=TOP)["error"]
        assert "cannot be drawn" in ask(socket, stroke=stroke(radius=-1))["error"]
        assert "cannot be drawn" in ask(socket, nonsense=1)["error"]
        away = ask(socket, stroke=stroke(places=[{"point": [0, 0, 900], "normal": [0, 0, 1]}]))
        assert struct.unpack_from("<4sI", away) == (b"ULT1", 0)


@pytest.mark.parametrize(
    ("opens", "says"),
    [({"build": "old"}, "being checked"), ({"part": "tail"}, "no such part"), ({"more": 1}, "reload the page")],
)
def test_a_brush_on_what_is_not_there_is_refused(served, page, opens, says):
    with brush_on(served, page, **opens) as socket:
        assert says in json.loads(socket.recv(timeout=30))["error"]


def test_a_page_from_elsewhere_gets_no_brush(served, page):
    address = f"ws{served.removeprefix('http')}/api/figures/{page['id']}/brush"
    with pytest.raises(InvalidStatus), connect(address, origin="http://elsewhere.example"):
        pass
    with connect(address, origin=served):
        pass


def test_only_so_many_brushes_lie_ready_at_once(served, page):
    with brush_on(served, page) as a, brush_on(served, page) as b, brush_on(served, page) as c:
        for socket in (a, b, c):
            socket.recv(timeout=30)
        with brush_on(served, page) as fourth:
            assert "put one of them down" in json.loads(fourth.recv(timeout=30))["error"]
