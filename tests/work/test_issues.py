"""Issues of release sets that are broken off, and what of them is kept."""

import datetime
import json
import zipfile

import pytest

from tests.shapes import box
from tests.work.test_bench_and_editions import OnTheSpot, owned
from ulvet.core.release.pack import verify_pack
from ulvet.core.release.release_set import Item, ReleaseSet, Tier
from ulvet.store.folder import DataFolder
from ulvet.work.folder_check import check_folder
from ulvet.work.issuing import issues_of, make_issue_job, resume_issues
from ulvet.work.jobs import JOBS
from ulvet.work.refusals import Refused
from ulvet.work.studio import Studio

DAY = datetime.date(2026, 12, 24)


class Killed(BaseException):
    """As if the process had ended."""


class KilledAt(OnTheSpot):
    """A supervisor whose jobs end as a killed process does, after so many words of progress."""

    def __init__(self, folder, words):
        super().__init__(folder)
        self.folder, self.words = folder, words

    def submit(self, kind, key, values, *rest, **more):
        if kind != "issue":
            return super().submit(kind, key, values, *rest, **more)
        heard = []

        def progress(share, doing):
            heard.append(share)
            if len(heard) > self.words:
                raise Killed

        return JOBS[kind](self.folder, values, progress)


@pytest.fixture
def folder(tmp_path):
    return DataFolder(tmp_path)


@pytest.fixture
def studio(folder):
    return Studio(folder, OnTheSpot(folder))


def release_set(studio):
    number = owned(studio, box(6, 6, 20))
    studio.want_build(number)
    items = (Item(figure=number, edition="e1"), Item(figure=number, edition="e1", mirrored=True))
    tiers = (Tier(name="free", items=(0,)), Tier(name="bought", items=(0, 1)))
    (made,) = studio.release_sets.begin([ReleaseSet(name="Posts", items=items, tiers=tiers)])
    return made


def test_an_issue_killed_ten_times_while_it_is_packed_is_neither_lost_nor_double(studio, folder):
    number = release_set(studio)
    for words in range(10):
        killed = Studio(folder, KilledAt(folder, words))
        with pytest.raises(Killed):
            make_issue_job(killed, number, DAY)
        assert not issues_of(studio, number)
    assert [path.name for path in folder.wanted.iterdir()] == [f"issue-{number}.json"]
    resume_issues(studio)
    (issue,) = issues_of(studio, number)
    assert [pack.tier for pack in issue.packs] == ["free", "bought"]
    for pack in issue.packs:
        seen = verify_pack(studio.blobs.path(pack.sha256))
        assert seen.whole and seen.sha256 == pack.sha256
    assert not list(folder.wanted.iterdir())
    resume_issues(studio)
    assert len(issues_of(studio, number)) == 1
    assert check_folder(folder).whole
    # Asked for anew, the packs of the next issue hold the very same files.
    make_issue_job(studio, number, DAY)
    later, first = issues_of(studio, number)
    names = {entry.name: entry.sha256 for entry in later.packs[1].manifest.files if entry.item}
    assert names == {entry.name: entry.sha256 for entry in first.packs[1].manifest.files if entry.item}
    pinned = set(check_folder(folder).unneeded)
    assert not {pack.sha256 for one in (later, first) for pack in one.packs} & pinned


def test_what_is_not_checked_begins_to_be_and_a_damaged_note_is_passed_over(studio, folder):
    number = release_set(studio)
    item = studio.release_sets.one(number).value.items[0]
    head = studio.figure_and_head(item.figure)[1]
    wanted = []
    studio.want_build = lambda *asked: wanted.append(asked)
    studio.record = lambda *asked: None
    with pytest.raises(Refused, match="still being checked"):
        make_issue_job(studio, number, DAY)
    assert wanted[0] == (item.figure, item.edition) and head.number
    for text in ("{", json.dumps({"set": 99}), json.dumps({"set": number, "release": {}})):
        (folder.wanted / "issue-1.json").write_text(text, "utf-8")
        resume_issues(studio)
        assert not list(folder.wanted.iterdir())


def test_a_pack_that_was_altered_on_disk_is_told_by_the_folder_check(studio, folder):
    number = release_set(studio)
    make_issue_job(studio, number, DAY)
    pack = issues_of(studio, number)[0].packs[0]
    path = studio.blobs.path(pack.sha256)
    with zipfile.ZipFile(path) as archive:
        assert archive.testzip() is None
    path.chmod(0o644)
    path.write_bytes(path.read_bytes()[:-1] + b"0")
    assert check_folder(folder).altered == (pack.sha256,)
    path.unlink()
    assert check_folder(folder).missing == (pack.sha256,)
