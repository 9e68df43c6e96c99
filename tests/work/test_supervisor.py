import os
import signal
import time

import pytest

from tests.shapes import ball
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.io import stl_bytes
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.supervisor import JobState, Supervisor

pytestmark = pytest.mark.slow


@pytest.fixture
def heard():
    return []


@pytest.fixture
def supervisor(tmp_path, heard):
    supervisor = Supervisor(tmp_path, lambda job: heard.append((job.id, job.state, job.share)))
    yield supervisor
    supervisor.close()


def upload(folder, name="figure.stl", content=None):
    path = folder.uploads / "upload.stl"
    path.write_bytes(stl_bytes(ball(10, rounds=2)) if content is None else content)
    return {"path": str(path), "name": name}


def long_build(folder):
    """A build that takes many seconds: a million faces."""
    mesh = ball(30, rounds=8)
    Blobs(folder.blobs).put_mesh(mesh)
    step = BringIn(source=mesh.hash, name="long.stl")
    return {"recipe": {"steps": [step.model_dump(mode="json")]}, "edition": {}}


def until(condition, seconds=60):
    end = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < end, "waited in vain"
        time.sleep(0.02)


def test_a_job_runs_in_a_process_of_its_own_and_tells_how_far_it_is(tmp_path, supervisor, heard):
    folder = DataFolder(tmp_path)
    job = supervisor.submit("bring-in", "a", upload(folder), "Bringing in", then=lambda r: {**r, "pid": os.getpid()})
    assert job.ended.wait(60)
    assert job.state is JobState.DONE
    assert job.result["pid"] == os.getpid()  # what follows a job runs in the server
    assert job.result["step"]["kind"] == "bring-in"
    shares = [share for number, _, share in heard if number == job.id]
    assert shares == sorted(shares)
    assert len(set(shares)) > 2
    assert [p.name for p in folder.uploads.iterdir()] == ["upload.stl"]  # kept until it is on the shelf


def test_what_cannot_be_read_is_refused_by_the_users_own_file_name(tmp_path, supervisor):
    job = supervisor.submit("bring-in", "a", upload(DataFolder(tmp_path), "mine.stl", b"no figure " * 20), "")
    assert job.ended.wait(60)
    assert job.state is JobState.FAILED
    assert job.error.startswith("mine.stl is cut off or not an STL")


def test_the_same_work_is_not_done_twice_at_once(tmp_path, supervisor):
    values = long_build(DataFolder(tmp_path))
    first = supervisor.submit("build", "same", values, "")
    assert supervisor.submit("build", "same", values, "") is first
    assert supervisor.submit("preview", "same", values, "") is not first


def test_a_stopped_job_ends_at_once_and_the_next_one_runs(tmp_path, supervisor):
    folder = DataFolder(tmp_path)
    job = supervisor.submit("build", "long", long_build(folder), "")
    until(lambda: job.share > 0)
    asked = time.monotonic()
    supervisor.cancel(job.id)
    assert job.ended.wait(10)
    assert time.monotonic() - asked < 2
    assert job.state is JobState.CANCELLED
    after = supervisor.submit("bring-in", "a", upload(folder), "")
    assert after.ended.wait(60)
    assert after.state is JobState.DONE


def kill_workers(supervisor):
    for process in supervisor.processes():
        if process.is_alive():
            os.kill(process.pid, signal.SIGKILL)


def test_a_job_whose_process_dies_begins_again_once_and_then_fails_with_a_sentence(tmp_path, supervisor):
    folder, after = DataFolder(tmp_path), []
    job = supervisor.submit("build", "long", long_build(folder), "", after=after.append)
    until(lambda: job.share > 0)
    kill_workers(supervisor)
    until(lambda: job.doing == "starting again")
    until(lambda: job.share > 0)
    assert job.state is JobState.RUNNING
    assert after == []
    kill_workers(supervisor)
    assert job.ended.wait(10)
    assert job.state is JobState.FAILED
    assert "safe" in job.error
    assert after == [job]
    following = supervisor.submit("bring-in", "a", upload(folder), "")
    assert following.ended.wait(60)
    assert following.state is JobState.DONE


def test_a_mistake_inside_a_job_is_told_without_its_traceback(supervisor):
    job = supervisor.submit("build", "wrong", {"recipe": {"steps": [{"kind": "no-such"}]}, "edition": {}}, "")
    assert job.ended.wait(60)
    assert job.state is JobState.FAILED
    assert "Traceback" not in job.error


def test_closing_ends_every_process(tmp_path):
    supervisor = Supervisor(tmp_path)
    job = supervisor.submit("build", "long", long_build(DataFolder(tmp_path)), "")
    until(lambda: job.share > 0)
    processes = supervisor.processes()
    supervisor.close()
    assert job.state is JobState.CANCELLED
    assert not any(_alive(process) for process in processes)


def _alive(process):
    try:
        return process.is_alive()
    except ValueError:  # closed, so it was ended and reaped
        return False
