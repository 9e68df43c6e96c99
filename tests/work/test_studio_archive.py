"""A whole studio taken out as one archive and brought in elsewhere; a cut or altered one is refused."""

import json
import shutil
import zipfile

import pytest

from tests.work.test_bench_and_editions import looked, set_value
from tests.work.test_studio import OnTheSpot, owned
from ulvet.core.bench.edition import Edition
from ulvet.core.lengths import PrintMM
from ulvet.store.folder import DataFolder
from ulvet.work import releasing, versions
from ulvet.work.editions import add_edition
from ulvet.work.folder_check import check_folder
from ulvet.work.shelf import shelf_of
from ulvet.work.studio import Studio
from ulvet.work.studio_archive import UnusableArchive, load_studio, save_studio


@pytest.fixture(scope="module")
def kept(tmp_path_factory):
    """A studio with a bench of its own and a figure of two editions, frozen and released, and its archive."""
    place = tmp_path_factory.mktemp("kept")
    folder = DataFolder(place / "one")
    studio = Studio(folder, OnTheSpot(folder))
    set_value(studio, 0, "materials", "tough-grey", "density", 1.2)
    number = owned(studio)
    second = add_edition(studio, number, looked(studio, number), "Large", Edition(height=PrintMM(60)))
    for edition in ("e1", second):
        studio.want_build(number, edition)
    versions.freeze(studio, number, looked(studio, number), "first")
    releasing.make_release(studio, number, second)
    save_studio(folder, place / "studio.zip")
    return studio, place / "studio.zip"


@pytest.fixture
def saved(kept, tmp_path):
    """That studio, its archive to be altered, and a folder to bring it into."""
    studio, archive = kept
    return studio, shutil.copy(archive, tmp_path / "studio.zip"), DataFolder(tmp_path / "two")


def test_what_is_saved_is_there_again_to_the_last_byte(saved):
    studio, archive, other = saved
    load_studio(archive, other)
    again = Studio(other, OnTheSpot(other))
    assert again.bench.value == studio.bench.value and again.bench.now().can_undo
    (one,), (before,) = shelf_of(again), shelf_of(studio)
    assert (one.figure.name, one.head.recipe, one.head.editions) == (
        before.figure.name, before.head.recipe, before.head.editions)  # fmt: skip
    number = one.figure.id
    # Every build is there, so nothing is checked again; undo goes back as far as before.
    assert again.figure(number).record == studio.figure(number).record
    ((release,), (was,)) = (releasing.releases_of(each, number) for each in (again, studio))
    assert again.blobs.read(release.zip_hash).tobytes() == studio.blobs.read(was.zip_hash).tobytes()
    assert versions.versions_of(again, number)[0][1] is not None
    for _ in range(2):
        again.undo(number, looked(again, number))
    assert check_folder(other).whole
    with pytest.raises(UnusableArchive, match="holds a studio already"):
        load_studio(archive, other)


def rewritten(archive, change):
    with zipfile.ZipFile(archive) as packed:
        held = {name: packed.read(name) for name in packed.namelist()}
    change(held)
    with zipfile.ZipFile(archive, "w") as packed:
        for name, data in held.items():
            packed.writestr(name, data)


def with_manifest(held, **over):
    held["manifest.json"] = json.dumps({**json.loads(held["manifest.json"]), **over}).encode()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda held: held.update({"studio.json": held["studio.json"].replace(b"Post", b"Poet")}), "altered"),
        (lambda held: held.pop(next(name for name in held if name.startswith("blobs/"))), "does not hold"),
        (lambda held: held.update({"blobs/more": b"more"}), "does not hold"),
        (lambda held: held.update({"../out": b"more"}), "does not hold"),
        (lambda held: with_manifest(held, ulvet_studio=2), "newer Ulvet"),
        (lambda held: with_manifest(held, schema="9999"), "newer Ulvet"),
        (lambda held: with_manifest(held, files=[]), "does not hold|no archive"),
        (lambda held: held.update({"manifest.json": b"{"}), "no archive of a studio"),
        (lambda held: held.pop("manifest.json"), "no archive of a studio"),
    ],
)
def test_an_altered_archive_is_refused_and_leaves_no_studio(saved, change, said):
    _, archive, other = saved
    rewritten(archive, change)
    with pytest.raises(UnusableArchive, match=said):
        load_studio(archive, other)
    assert not other.database.exists()


@pytest.mark.parametrize("share", [0.0, 0.3, 0.9, 0.999])
def test_an_archive_that_is_cut_off_is_refused(saved, share):
    _, archive, other = saved
    data = archive.read_bytes()
    archive.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(UnusableArchive, match="cut off"):
        load_studio(archive, other)
    assert not other.database.exists()
