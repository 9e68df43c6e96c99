import contextlib
import errno
import multiprocessing
import os
import re
import signal
import threading
import time
from pathlib import Path

import pytest

from tests.shapes import ball
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.formats.stl import stl_bytes
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.work.job import Job, JobState
from ulvet.work.job_process import run_one_job
from ulvet.work.jobs import JOBS
from ulvet.work.supervisor import Supervisor

BENCH = DEFAULT_BENCH.model_dump(mode="json")


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
    return {"recipe": {"steps": [step.model_dump(mode="json")]}, "edition": {}, "bench": BENCH}


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


def refused_at_once(number):
    """The values of a build that a process looks at and refuses, which takes hundredths of a second."""
    return {"recipe": {"steps": []}, "edition": {"setting": f"none-{number}"}, "bench": BENCH}


def test_however_many_builds_wait_what_somebody_waits_for_comes_first_and_all_come_to_an_end(tmp_path, supervisor):
    folder = DataFolder(tmp_path)
    at_work = [supervisor.submit("build", str(k), long_build(folder), "") for k in range(2)]
    until(lambda: all(job.share > 0 for job in at_work))
    queued = [supervisor.submit("build", f"w{k}", refused_at_once(k), "", figure=k) for k in range(200)]
    brought = supervisor.submit("bring-in", "a", upload(folder), "")
    assert brought.ended.wait(60) and brought.state is JobState.DONE
    assert all(job.state is JobState.QUEUED for job in queued)
    supervisor.wait_for(queued[-1])
    assert queued[-1].ended.wait(60)
    assert queued[0].state is JobState.QUEUED
    for job in at_work:
        supervisor.cancel(job.id)
    assert all(job.ended.wait(60) for job in queued)
    assert {job.state for job in queued} == {JobState.FAILED}


def test_a_job_that_hangs_is_ended_when_its_time_is_over_and_says_so(tmp_path, supervisor):
    job = supervisor.submit("build", "long", long_build(DataFolder(tmp_path)), "", limit=0.5)
    assert job.ended.wait(60)
    assert job.state is JobState.FAILED
    assert "was not done after" in job.error and "saved is safe" in job.error


def test_what_a_figure_wants_no_more_is_ended_unless_another_wants_it(tmp_path, supervisor):
    folder = DataFolder(tmp_path)
    shared = supervisor.submit("build", "shared", long_build(folder), "", figure=1)
    assert supervisor.submit("build", "shared", {}, "", figure=2) is shared
    alone = supervisor.submit("build", "alone", long_build(folder), "", figure=1)
    supervisor.drop("build", 1, "alone")
    assert (shared.figures, alone.figures) == ({2}, {1})
    supervisor.drop("build", 1)
    assert alone.ended.wait(10) and alone.state is JobState.CANCELLED
    assert supervisor.latest("build", "alone") is None, "nobody stopped it, so it may begin again"
    assert not shared.cancelled.is_set()
    supervisor.drop("build", 2)
    assert shared.ended.wait(10)


def test_a_trial_ends_when_the_last_one_that_looked_at_it_has_left(tmp_path, supervisor):
    values = long_build(DataFolder(tmp_path))
    trial = supervisor.submit("preview", "t", values, "")
    assert supervisor.submit("preview", "t", values, "") is trial
    supervisor.leave(trial.id)
    assert not trial.cancelled.is_set()
    supervisor.leave(trial.id)
    assert trial.ended.wait(10) and trial.state is JobState.CANCELLED
    again = supervisor.submit("preview", "t", values, "")
    assert again is not trial


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


def test_when_the_process_that_loads_the_libraries_dies_another_takes_its_place(tmp_path, supervisor):
    folder = DataFolder(tmp_path)
    job = supervisor.submit("build", "long", long_build(folder), "")
    until(lambda: job.share > 0)
    (process,) = supervisor.processes()
    process_id = process.pid
    loader = int(re.search(r"PPid:\s+(\d+)", Path(f"/proc/{process_id}/status").read_text("utf-8"))[1])
    assert loader != os.getpid()
    os.kill(loader, signal.SIGKILL)
    following = supervisor.submit("bring-in", "a", upload(folder), "")
    assert following.ended.wait(60)
    assert following.state is JobState.DONE
    # What was at work is given up as if it had died, and begins again in a copy of the new one.
    until(lambda: any(at_work.pid != process_id for at_work in supervisor.processes()))
    assert job.state is JobState.RUNNING


def test_a_mistake_inside_a_job_is_told_without_its_traceback(supervisor):
    job = supervisor.submit(
        "build", "wrong", {"recipe": {"steps": [{"kind": "no-such"}]}, "edition": {}, "bench": BENCH}, ""
    )
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


def test_closing_when_nothing_was_ever_asked_for_ends_too(tmp_path):
    supervisor = Supervisor(tmp_path)
    closing = threading.Thread(target=supervisor.close, daemon=True)
    closing.start()
    closing.join(20)
    assert not closing.is_alive()


def _alive(process):
    try:
        return process.is_alive()
    except ValueError:  # closed, so it was ended and reaped
        return False


def test_jobs_wait_until_their_memory_finds_room_and_begin_in_order(tmp_path):
    supervisor = Supervisor(tmp_path, memory=1000)
    try:
        folder = DataFolder(tmp_path)
        first = supervisor.submit("build", "a", long_build(folder), "A", memory=700)
        second = supervisor.submit("build", "b", long_build(folder), "B", memory=700)
        small = supervisor.submit("build", "c", long_build(folder), "C", memory=10)
        until(lambda: first.state is JobState.RUNNING)
        time.sleep(0.3)
        # The small one would fit, but what came before it must not wait for ever.
        assert (second.state, small.state) == (JobState.QUEUED, JobState.QUEUED)
        supervisor.cancel(first.id)
        until(lambda: second.state is JobState.RUNNING)
        until(lambda: small.state is JobState.RUNNING)
        supervisor.cancel(small.id)
        alone = supervisor.submit("bring-in", "d", upload(folder), "D", memory=5000)
        time.sleep(0.3)
        assert alone.state is JobState.QUEUED
        supervisor.cancel(second.id)
        assert alone.ended.wait(60) and alone.state is JobState.DONE
    finally:
        supervisor.close()


def test_a_job_that_waits_is_cancelled_at_once(tmp_path):
    supervisor = Supervisor(tmp_path, memory=1000)
    try:
        folder = DataFolder(tmp_path)
        supervisor.submit("build", "a", long_build(folder), "A", memory=900)
        waiting = supervisor.submit("build", "b", long_build(folder), "B", memory=900)
        supervisor.cancel(waiting.id)
        assert waiting.ended.wait(2) and waiting.state is JobState.CANCELLED
    finally:
        supervisor.close()


def test_what_is_expected_follows_how_long_the_kind_took_before(tmp_path, supervisor):
    folder = DataFolder(tmp_path)
    values = upload(folder)
    first = supervisor.submit("bring-in", "a", values, "A", expected=1000.0)
    assert first.ended.wait(60)
    assert supervisor.submit("bring-in", "b", values, "B", expected=1000.0).expected < 100


@pytest.mark.parametrize(
    ("wrong", "answer"),
    [
        (OSError(errno.ENOSPC, "no space"), ("refused", "The disk is full")),
        (MemoryError(), ("refused", "not enough memory")),
        (OSError(errno.EACCES, "denied"), ("failed", "Traceback")),
    ],
)
def test_what_the_machine_lacks_is_a_sentence_and_all_else_a_mistake(tmp_path, monkeypatch, wrong, answer):
    def do(folder, values, progress):
        raise wrong

    monkeypatch.setitem(JOBS, "do", do)
    monkeypatch.setattr(os, "nice", lambda more: more)
    before = signal.getsignal(signal.SIGINT)
    ours, theirs = multiprocessing.Pipe()
    run_one_job(theirs, str(tmp_path), "do", {}, yields=True)
    signal.signal(signal.SIGINT, before)
    kind, said = ours.recv()
    assert kind == answer[0] and answer[1] in said


def test_words_that_come_all_at_once_are_not_all_passed_on(tmp_path, monkeypatch):
    def do(folder, values, progress):
        for k in range(5000):
            progress(k / 5000, "passing by")
        return {}

    monkeypatch.setitem(JOBS, "do", do)
    before = signal.getsignal(signal.SIGINT)
    ours, theirs = multiprocessing.Pipe()
    run_one_job(theirs, str(tmp_path), "do", {}, yields=False)
    signal.signal(signal.SIGINT, before)
    theirs.close()
    heard = []
    with contextlib.suppress(EOFError):
        while True:
            heard.append(ours.recv()[0])
    assert heard[0] == "progress" and heard[-1] == "done"
    assert len(heard) < 100


def test_a_file_that_is_brought_in_does_not_wait_for_checks(tmp_path):
    supervisor = Supervisor(tmp_path)
    try:
        folder = DataFolder(tmp_path)
        checks = [supervisor.submit("build", str(k), long_build(folder), "A") for k in range(4)]
        brought = supervisor.submit("bring-in", "b", upload(folder), "B")
        assert brought.ended.wait(60) and brought.state is JobState.DONE
        assert [job.state for job in checks].count(JobState.QUEUED) == 2
    finally:
        supervisor.close()


def test_the_time_left_counts_down_and_believes_the_share_the_more_is_done(monkeypatch):
    now = 100.0
    monkeypatch.setattr("ulvet.work.job.time.monotonic", lambda: now)
    job = Job(1, "build", "k", "Checking", expected=40.0)
    assert job.remaining() == 40
    job.state, job.began = JobState.RUNNING, 100.0
    now = 110.0
    assert job.remaining() == 30, "nothing heard yet, so the plan, less what has gone by"
    job.share, job.heard = 0.5, 110.0
    assert 10 < job.remaining() < 20, "between what the share says and what was planned"
    before = job.remaining()
    now = 113.0
    assert job.remaining() == pytest.approx(before - 3)
    now = 200.0
    assert job.remaining() is None
