"""What tests share: files to bring in, and a studio that is served."""

import socket
import threading
import time
from pathlib import Path

import httpx
import pytest
import uvicorn
from hypothesis import settings

from tests.kept import begin_keeping, end_keeping, hand_back, hand_out
from tests.shapes import ball, box, concatenated, cylinder
from ulvet.api.app import create_app
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh
from ulvet.store.folder import DataFolder

# Nothing counts on time: a busy machine is slow.
settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")


def dirty_figure() -> Mesh:
    """A body 30 mm tall with a hole, turned faces, and a bar on top that is too thin."""
    body = concatenated(box(20, 20, 10), ball(8, at=(10, 10, 14)), cylinder(0.2, 10, 24, at=(10, 10, 20)))
    faces = body.faces.copy()
    faces[40:44] = faces[40:44][:, ::-1]
    return Mesh(body.vertices, faces[[k for k in range(len(faces)) if k != 100]])


def sent(served: str, name: str, content: bytes) -> httpx.Response:
    """A file sent to a served studio, as the page sends it."""
    return httpx.post(
        f"{served}/api/figures",
        params={"file_name": name},
        content=content,
        headers={WRITE_HEADER: "test"},
        timeout=60,
    )


@pytest.fixture
def dirty_stl(tmp_path):
    path = tmp_path / "heron_post.stl"
    path.write_bytes(stl_bytes(dirty_figure()))
    return path


@pytest.fixture
def clean_stl(tmp_path):
    path = tmp_path / "block.stl"
    path.write_bytes(stl_bytes(box(20, 10, 15)))
    return path


SLOW = Path(__file__).with_name("slow.txt")
"""Tests that ``make test-fast`` leaves out, as ``make slow-tests`` found them."""
SECONDS = 0.7
"""From which a test is slow."""


def pytest_addoption(parser):
    parser.addoption("--write-slow", action="store_true", help="write which tests are slow to tests/slow.txt")


def pytest_configure(config):
    config.keeps = begin_keeping()
    config.took = {}


def pytest_collection_modifyitems(items):
    slow = frozenset(SLOW.read_text("utf-8").split())
    for item in items:
        if item.nodeid.split("[")[0] in slow:
            item.add_marker(pytest.mark.slow)


def pytest_report_teststatus(report, config):
    name = report.nodeid.split("[")[0]
    config.took[name] = max(config.took.get(name, 0.0), getattr(report, "duration", 0.0))


def pytest_sessionfinish(session):
    if session.config.getoption("--write-slow") and not hasattr(session.config, "workerinput"):
        slow = sorted(name for name, took in session.config.took.items() if took >= SECONDS)
        SLOW.write_text("".join(f"{name}\n" for name in slow), "utf-8")


def pytest_unconfigure(config):
    if config.keeps:
        end_keeping()


@pytest.fixture
def served(tmp_path, request):
    """Address of a studio served in this process, with nothing on its shelf.

    It has the results that other tests came to, unless the test is ``cold``: then whatever it asks for takes its time.
    """
    folder = DataFolder(tmp_path / "data")
    if not request.node.get_closest_marker("cold"):
        hand_out(folder)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    config = uvicorn.Config(
        create_app(folder.root), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=2
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(15)
    assert not thread.is_alive(), "the server did not stop"
    hand_back(folder)
