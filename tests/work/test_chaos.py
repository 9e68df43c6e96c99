"""Small figures under random edits, trials left, deletions and kills: nothing stalls, nothing is lost."""

import os
import random
import time
from contextlib import suppress

import httpx

from tests.conftest import dirty_figure, sent
from tests.depth import of_all
from tests.served import Served
from tests.shapes import ball, box
from ulvet.api.guard import WRITE_HEADER
from ulvet.core.formats.stl import stl_bytes
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder

FIGURES = of_all(30)
ACTS = int(os.environ.get("ULVET_CHAOS", of_all(200)))
"""A minute of them; half an hour in the deep run."""


class Studio:
    """A served studio that somebody works in without looking where things end."""

    def __init__(self, data, seed):
        self.data, self.rng = data, random.Random(seed)
        self.served = Served(data)
        self.gone = set()

    def ask(self, method, path, seen=None, **more):
        headers = {WRITE_HEADER: "test"} | ({} if seen is None else {"If-Match": str(seen)})
        with suppress(httpx.TransportError):  # killed meanwhile
            return httpx.request(method, f"{self.served.address}/api{path}", headers=headers, timeout=60, **more)
        return None

    def page(self):
        shelf = self.ask("GET", "/shelf").json()
        number = self.rng.choice(shelf)["id"]
        return number, self.ask("GET", f"/figures/{number}").json()

    def bring(self, number):
        mesh = self.rng.choice([ball(3 + number % 7, rounds=2), box(2 + number, 5, 9), dirty_figure()])
        answer = sent(self.served.address, f"small_{number}.stl", stl_bytes(mesh))
        assert answer.status_code == 202

    def size(self):
        number, page = self.page()
        edition = {**page["edition"], "height": self.rng.choice([None, 20, 28, 75])}
        return self.ask("PUT", f"/figures/{number}/edition", page["revision"], json=edition)

    def edit(self):
        number, page = self.page()
        step = self.rng.choice([{"kind": "drop-faces"}, {"kind": "orient-faces"}, {"kind": "close-holes"},
                                {"kind": "simplify", "deviation": 0.05}])  # fmt: skip
        return self.ask("POST", f"/figures/{number}/record", page["revision"], json={"step": step, "says": "an edit"})

    def back(self):
        number, page = self.page()
        return self.ask("POST", f"/figures/{number}/{self.rng.choice(['undo', 'redo'])}", page["revision"])

    def stale(self):
        number, page = self.page()
        return self.ask("POST", f"/figures/{number}/undo", page["revision"] + 7)

    def remedy(self):
        number, page = self.page()
        build = page["build"]
        offered = [(k, r) for k, f in enumerate(build["findings"] if build else []) for r in range(len(f["remedies"]))]
        if not offered:
            return None
        finding, remedy = self.rng.choice(offered)
        asked = {"build": build["key"], "finding": finding, "remedy": remedy}
        if self.rng.random() < 0.5:
            return self.ask("POST", f"/figures/{number}/remedies", page["revision"], json=asked)
        trial = self.ask("POST", f"/figures/{number}/previews", json=asked)
        if trial is not None and trial.status_code == 202 and self.rng.random() < 0.7:
            return self.ask("POST", f"/jobs/{trial.json()['id']}/leave")
        return trial

    def delete(self):
        number, _ = self.page()
        self.ask("DELETE", f"/figures/{number}")
        return self.ask("POST", f"/figures/{number}/put-back")

    def kill(self):
        if self.served.kill(self.rng.choice(["server", "worker", "both"])):
            self.served = Served(self.data)

    def settled(self):
        jobs = self.ask("GET", "/jobs").json()
        shelf = self.ask("GET", "/shelf").json()
        return not [job for job in jobs if job["state"] in ("queued", "running")] and all(
            one["size_mm"] for one in shelf
        )


def test_whatever_is_done_to_figures_the_queue_drains_and_every_head_is_built(tmp_path):
    studio = Studio(tmp_path, 11)
    acts = [
        studio.size,
        studio.edit,
        studio.edit,
        studio.back,
        studio.stale,
        studio.remedy,
        studio.remedy,
        studio.delete,
    ]
    try:
        for number in range(FIGURES):
            studio.bring(number)
        for number in range(ACTS):
            answer = studio.rng.choice(acts)()
            if answer is not None:
                assert answer.status_code in (200, 202, 404, 412, 422), answer.text
                assert "mistake" not in answer.text
            if number % 30 == 29:
                studio.kill()
        for _ in range(3000):
            if studio.settled():
                break
            time.sleep(0.1)
        jobs = studio.ask("GET", "/jobs").json()
        shelf = studio.ask("GET", "/shelf").json()
    finally:
        studio.served.kill()
    assert len(shelf) == FIGURES
    assert not [job for job in jobs if job["state"] in ("queued", "running")]
    assert not [one for one in shelf if one["trouble"] or not one["size_mm"]]
    assert check_folder(DataFolder(tmp_path)).whole
    assert not list(DataFolder(tmp_path).uploads.iterdir())
