"""The server, killed at any moment, with everything it had started."""

import io
import itertools
import os
import random
import time
import zipfile

import httpx

from tests.conftest import sent
from tests.served import Served
from tests.shapes import ball
from ulvet.core.formats.stl import stl_bytes
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder
from ulvet.work.importing import add_figure, resume_uploads
from ulvet.work.shelf import shelf_of
from ulvet.work.studio import Studio
from ulvet.work.supervisor import Supervisor

ROUNDS = int(os.environ.get("ULVET_KILLS", "3"))


def test_whatever_was_sent_whole_is_on_the_shelf_once_however_often_anything_is_killed(tmp_path):
    rng, names, asked, owned = random.Random(7), [], set(), set()
    served = Served(tmp_path)
    for number in range(ROUNDS):
        names.append(f"Ball {number}")
        answer = sent(served.address, f"ball_{number}.stl", stl_bytes(ball(5 + number, rounds=4)))
        assert answer.status_code == 202
        for figure in served.shelf():
            if figure["id"] not in owned:
                served.own(figure["id"])
                owned.add(figure["id"])
        checked = [figure["id"] for figure in served.shelf() if figure["size_mm"]]
        # On a busy machine nothing may be checked by now, and then there would be nothing to release.
        for _ in range(1200 if number >= ROUNDS - 2 else 0):
            if checked:
                break
            time.sleep(0.1)
            checked = [figure["id"] for figure in served.shelf() if figure["size_mm"]]
        if checked and served.ask_release(figure := rng.choice(checked)):
            asked.add(figure)
        time.sleep(rng.uniform(0, 2.5))
        if served.kill(["server", "worker", "both"][number % 3]):
            served = Served(tmp_path)
    try:
        for _ in range(1200):
            shelf = served.shelf()
            checks = len(shelf) >= ROUNDS and all(figure["size_mm"] for figure in shelf)
            # A note goes only when the row it asked for is there, and a figure may be asked for twice.
            asked_for = list(DataFolder(tmp_path).wanted.iterdir())
            if checks and not asked_for and all(served.releases(figure) for figure in asked):
                break
            time.sleep(0.1)
        packed = {figure: served.releases(figure) for figure in asked}
        for release in itertools.chain.from_iterable(packed.values()):
            content = httpx.get(f"{served.address}/api/releases/{release['id']}.zip", timeout=30).content
            with zipfile.ZipFile(io.BytesIO(content)) as archive:
                assert archive.testzip() is None
    finally:
        served.kill()
    assert sorted(figure["name"] for figure in shelf) == sorted(names)
    assert all(figure["picture"] for figure in shelf), "checks that were cut off are made up for"
    assert asked, "nothing was there to be released; kill later"
    assert all(packed.values()), "releases that were cut off are made up for"
    assert check_folder(DataFolder(tmp_path)).whole
    assert not list(DataFolder(tmp_path).uploads.iterdir())
    assert not list(DataFolder(tmp_path).wanted.iterdir())


def test_an_upload_that_was_whole_is_taken_up_and_one_that_was_cut_off_is_cleared_away(tmp_path):
    folder = DataFolder(tmp_path)
    supervisor = Supervisor(tmp_path)
    studio = Studio(folder, supervisor)
    try:
        (folder.uploads / "abc.stl").write_bytes(stl_bytes(ball(4, rounds=2)))
        (folder.uploads / "abc.json").write_text(
            '{"file": "abc.stl", "file_name": "moon.stl", "name": "Moon"}', "utf-8"
        )
        (folder.uploads / "cut.stl").write_bytes(b"half a")
        (folder.uploads / "gone.json").write_text(
            '{"file": "gone.stl", "file_name": "gone.stl", "name": "Gone"}', "utf-8"
        )
        resume_uploads(studio)
        for job in supervisor.jobs():
            assert job.ended.wait(60)
        assert [one.figure.name for one in shelf_of(studio)] == ["Moon"]
        assert not list(folder.uploads.iterdir())
        # Killed between the row and the clearing away, it is taken up again and is no second figure.
        brought = {"step": studio.figure(1)[1].recipe["steps"][0], "mesh_hash": "m", "file_hash": "f", "file_bytes": 1}
        assert add_figure(studio, "Moon", "moon.stl", brought, "abc") == 1
        assert len(shelf_of(studio)) == 1
    finally:
        supervisor.close()
