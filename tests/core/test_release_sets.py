"""Release sets: names, packs that vouch for every byte, guides that agree with them, corrections and reports."""

import datetime
import hashlib
import io
import json
import subprocess
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pdfplumber
import pytest
import trimesh
from PIL import Image

from tests.kept import build_kept
from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.edition import Edition, Form
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.findings.finding import Severity
from ulvet.core.finish.steps import Coat, ColourPlan, RoleColour, Scheme
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.key_steps import Key
from ulvet.core.part.order_steps import NamePart
from ulvet.core.part.steps import Cut
from ulvet.core.progress import no_progress
from ulvet.core.proof.proof import Cause
from ulvet.core.proof.state import StateKind
from ulvet.core.recipe.runner import NoMemory, Recipe
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.correction import correction_of
from ulvet.core.release.issue import ReadyItem, holds_of, item_names, make_issue
from ulvet.core.release.listing import PackTold, listing_rows
from ulvet.core.release.manifest import MANIFEST, Manifest
from ulvet.core.release.names import item_name, safe_name, unclashing
from ulvet.core.release.pack import CHECKSUMS, NoPack, verify_pack
from ulvet.core.release.pictures import cut_to_size, ruled_picture
from ulvet.core.release.release_set import FileKind, Item, Listing, ReleaseSet, Report, Supported, Tier, Word
from ulvet.core.release.reports import joined_reports, rates_of
from ulvet.core.stand.steps import Support
from ulvet.store.blobs import Blobs
from ulvet.store.folder import DataFolder
from ulvet.store.results import DiskMemory

DAY = datetime.date(2026, 12, 24)
MESH = concatenated(box(10, 10, 24), cylinder(4, 20, 24, at=(5, 5, 23)))


def checked(height, name="Crane", mirrored=False, mesh=MESH, cut=12.0):
    steps = [BringIn(source=mesh.hash, name="crane.stl"), Cut(id=2, offset=FigureMM(cut)), Key(id=3, cut=2)]
    steps += [NamePart(id=4, scope="figure.2-upper", title="Crest"), Support(id=5)]
    blue = Coat(kind="base", paint="mix", drops={"tide-blue": 3, "bone": 1}, coats=2)
    scheme = Scheme(name="dusk", roles=(RoleColour(role="crest", coats=(blue,)), RoleColour(role="body", bare=True)))
    steps += [ColourPlan(id=6, schemes=(scheme,))]
    edition = Edition(height=PrintMM(height), form=Form(mirrored=mirrored))
    return CheckedFigure.of(name, build_kept(Recipe(steps=tuple(steps)), edition, {mesh.hash: mesh}))


def ready(edition, height, mirrored=False, **more):
    item = Item(figure=1, edition=edition, mirrored=mirrored)
    return ReadyItem(item, "Crane", f"{height:.0f} mm", checked(height, **more))


def release_of(items, tiers=None, **more):
    tiers = tiers or (Tier(name="all", items=tuple(range(len(items)))),)
    return ReleaseSet(name="Fen birds", items=tuple(one.item for one in items), tiers=tiers, **more)


def issued(folder, items, number=1, before=None, memory=None, tiers=None, **more):
    folder.mkdir(exist_ok=True)
    release = release_of(items, tiers, **more)
    return make_issue(
        release, items, number, DAY, before or {}, Blobs(folder / "kept"), memory or NoMemory(), folder, no_progress
    )


@pytest.fixture(scope="module")
def pack(tmp_path_factory):
    folder = tmp_path_factory.mktemp("packs")
    items = [ready("e1", 25.0), ready("e2", 60.0), ready("e1", 25.0, mirrored=True)]
    words = (Word(code="snap-risk", says="The tall form may bend: buyers of it were told."),)
    (made,) = issued(folder, items, words=words)
    return folder / made.file_name, made, items


def unpacked(path):
    with zipfile.ZipFile(path) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def test_a_pack_holds_every_form_under_names_that_sort_and_opens_elsewhere(pack, tmp_path):
    path, made, _ = pack
    subprocess.run(["unzip", "-tqq", path], check=True)
    files = unpacked(path)
    names = ["crane_25mm_solid_in-parts", "crane_60mm_solid_in-parts", "crane_25mm_solid_in-parts_mirrored"]
    assert [item.name for item in made.manifest.items] == names
    # The lower one stands on its foot, and nothing holds it.
    stems = ("01-crest", "01-crest_supported", "02-lower-figure")
    assert {name for name in files if name.endswith(".stl")} == {f"{n}/{n}_{stem}.stl" for n in names for stem in stems}
    for name in names:
        scene = trimesh.load(io.BytesIO(files[f"{name}/{name}.3mf"]), file_type="3mf")
        assert scene.units == "millimeter"
        assert sorted(scene.geometry) == ["Crest", "lower figure"]
        assert scene.extents[2] == pytest.approx(25 if "25mm" in name else 60, rel=1e-4)
        crest = trimesh.load(io.BytesIO(files[f"{name}/{name}_01-crest.stl"]), file_type="stl")
        assert crest.is_watertight and crest.volume > 0
    entries = {entry.name: entry for entry in made.manifest.files}
    assert set(entries) | {MANIFEST, CHECKSUMS} == set(files)
    assert all(hashlib.sha256(files[name]).hexdigest() == entry.sha256 for name, entry in entries.items())
    assert all(entry.watertight for entry in entries.values() if entry.name.endswith(".stl"))
    (tmp_path / "out").mkdir()
    with zipfile.ZipFile(path) as archive:
        archive.extractall(tmp_path / "out")
        assert {info.date_time for info in archive.infolist()} == {(2026, 12, 24, 0, 0, 0)}
    subprocess.run(["sha256sum", "--quiet", "-c", CHECKSUMS], cwd=tmp_path / "out", check=True)


def test_a_mirrored_item_is_the_mirror_image_and_its_twin_in_name_only(pack):
    path, _, _ = pack
    files = unpacked(path)
    plain, mirrored = (
        trimesh.load(io.BytesIO(files[f"{n}/{n}_02-lower-figure.stl"]), file_type="stl")
        for n in ("crane_25mm_solid_in-parts", "crane_25mm_solid_in-parts_mirrored")
    )
    assert mirrored.bounds[:, 0] == pytest.approx(-plain.bounds[::-1, 0], abs=1e-4)
    assert mirrored.volume == pytest.approx(plain.volume, rel=1e-5)


def test_what_a_form_leaves_out_is_not_packed(tmp_path):
    crane = checked(25.0)
    bare = Item(figure=1, edition="e1", supported=Supported.WITHOUT, kinds=(FileKind.STL,))
    held = Item(figure=1, edition="e2", supported=Supported.WITH, kinds=(FileKind.THREEMF,))
    items = [ReadyItem(bare, "Crane", "a", crane), ReadyItem(held, "Crane", "b", crane)]
    tiers = (Tier(name="free", items=(0,)), Tier(name="bought", items=(0, 1)), Tier(name="nobody"))
    free, bought = issued(tmp_path, items, tiers=tiers)
    assert [name.split("/")[1] for name in unpacked(tmp_path / free.file_name) if name.startswith("crane")] == [
        "crane_25mm_solid_in-parts_01-crest.stl", "crane_25mm_solid_in-parts_02-lower-figure.stl",
    ]  # fmt: skip
    # Two editions of one size and form are told apart.
    assert [item.name for item in bought.manifest.items][1] == "crane_25mm_solid_in-parts-2"
    assert "crane_25mm_solid_in-parts-2/crane_25mm_solid_in-parts-2_supported.3mf" in unpacked(
        tmp_path / bought.file_name
    )


def test_equal_sets_give_equal_bytes_also_when_items_were_kept(tmp_path):
    items = [ready("e1", 25.0)]
    memory = DiskMemory(DataFolder(tmp_path / "data"))
    (one,) = issued(tmp_path / "one", items)
    (two,) = issued(tmp_path / "two", items, memory=memory)
    (three,) = issued(tmp_path / "two", items, memory=memory)
    assert one.sha256 == two.sha256 == three.sha256
    # What was kept and is gone is made again.
    for path in (tmp_path / "two" / "kept").glob("??/*"):
        path.unlink()
    assert issued(tmp_path / "two", items, memory=memory)[0].sha256 == one.sha256


def pdf_text(data):
    with pdfplumber.open(io.BytesIO(data)) as document:
        return " ".join(" ".join((page.extract_text() or "").split()) for page in document.pages)


def test_the_guide_agrees_with_what_is_packed_on_paper_and_as_a_page(pack):
    path, made, items = pack
    files = unpacked(path)
    paper, page = pdf_text(files["guide.pdf"]), files["guide.html"].decode()
    for said in (paper, page):
        assert "Issue 1, 24 December 2026" in said
        assert "Not proofed" in said
        assert "gloves" in said
        assert "The tall form may bend" in said
        assert "base 3 tide blue, 1 bone, 2 coats" in said
        assert "stays bare" in said
    for entry, item in zip(made.manifest.items, items, strict=True):
        for part, facts, estimate in zip(entry.parts, item.checked.facts, item.checked.estimates, strict=True):
            size = " × ".join(f"{side:.1f}" for side in facts.size_mm)
            assert size in paper and size in page
            assert f"{facts.triangles:,}" in paper and f"{facts.triangles:,}" in page
            assert part.material_ml == pytest.approx(estimate.material_ml)
            minutes = round(estimate.seconds / 60)
            assert f"{minutes // 60}:{minutes % 60:02}" in paper
        tips = [len(facts.stance.contacts) for facts in item.checked.facts]
        assert all(f"<td>{count}</td>" in page for count in tips)
        glue = item.checked.assembly.order[0].glue
        assert glue and glue in paper and glue in page
    assert page.count("<img ") == 3 * len(items)
    assert "<script" not in page and "http" not in page


def test_the_guide_escapes_what_was_typed(tmp_path):
    one = ready("e1", 25.0, name="Crane")
    nasty = ReadyItem(one.item, "<b>Crane</b>", "&", replace(one.checked, figure="<b>Crane</b>"))
    release = release_of([nasty]).model_copy(update={"name": "<script>1</script> & more"})
    (made,) = make_issue(release, [nasty], 1, DAY, {}, Blobs(tmp_path / "k"), NoMemory(), tmp_path, no_progress)
    files = unpacked(tmp_path / made.file_name)
    assert b"<script>1" not in files["guide.html"]
    assert "<script>1</script> & more" in pdf_text(files["guide.pdf"])
    assert made.file_name == "script-1-script-more_01_all.zip"


def test_pictures_show_the_figure_beside_a_ruler_of_its_size():
    post = box(10, 10, 50)
    drawn = np.asarray(Image.open(io.BytesIO(ruled_picture([post], 2.0, back=False))).convert("L"))
    paper = drawn[0, 0]
    # From the left there is the post, then the ruler; both have their foot and top in the same rows.
    inked = np.flatnonzero((drawn[:, : drawn.shape[1] // 2] != paper).any(axis=1))
    ruler = drawn[:, -6 * 20 - 16 - 30 : -6 * 20]
    rows = np.flatnonzero((ruler < 80).any(axis=1))
    assert abs(int(inked[-1]) - int(rows[-1])) <= 4
    assert abs(int(inked[0]) - int(rows[0])) <= 4
    cut = Image.open(io.BytesIO(cut_to_size(ruled_picture([post], 2.0, back=True), 300, 90)))
    assert cut.size == (300, 90)


def test_one_altered_byte_anywhere_is_told(tmp_path):
    cube = box(4, 4, 4)
    build = build_kept(
        Recipe(steps=(BringIn(source=cube.hash, name="c.stl"),)), Edition(height=PrintMM(4.0)), {cube.hash: cube}
    )
    item = ReadyItem(Item(figure=1, edition="e", kinds=(FileKind.STL,)), "Cube", "a", CheckedFigure.of("Cube", build))
    (made,) = issued(tmp_path, [item])
    path = tmp_path / made.file_name
    data = path.read_bytes()
    assert verify_pack(path).whole
    with zipfile.ZipFile(path) as archive:
        headers = [info.header_offset for info in archive.infolist()]
        directory = archive.start_dir
    structure = [at + k for at in headers for k in (0, 6, 8, 10, 14, 26, 30)]
    structure += [*range(directory, directory + 60, 7), *range(len(data) - 120, len(data))]
    spread = np.random.default_rng(4).integers(0, len(data), 60).tolist()
    other = tmp_path / "other.zip"
    for at in (*structure, *spread):
        altered = bytearray(data)
        altered[at] ^= 0x20
        other.write_bytes(altered)
        try:
            assert not verify_pack(other).whole, at
        except NoPack:
            assert at < 4, "only what does not begin as a ZIP is called no pack"


def test_what_was_cut_added_or_renamed_is_named(pack, tmp_path):
    path, made, _ = pack
    data, other = path.read_bytes(), tmp_path / "other.zip"
    other.write_bytes(data[:-10])
    assert not verify_pack(other).whole
    other.write_bytes(data[: len(data) // 2])
    assert not verify_pack(other).whole
    other.write_bytes(data + b"more")
    assert "4 bytes follow" in verify_pack(other).why
    other.write_bytes(data)
    with zipfile.ZipFile(other, "a") as archive:
        archive.writestr("extra.stl", b"solid")
    assert verify_pack(other).added == ("extra.stl",)
    files = unpacked(path)
    stl = next(entry.name for entry in made.manifest.files if entry.name.endswith(".stl"))
    with zipfile.ZipFile(other, "w") as archive:
        for name, held in files.items():
            if name != "guide.pdf":
                archive.writestr(name, held[:100] + b"?" + held[101:] if name == stl else held)
    seen = verify_pack(other)
    assert (seen.altered, seen.missing) == ((stl,), ("guide.pdf",))
    with zipfile.ZipFile(other, "w") as archive:
        archive.writestr("a.txt", b"a")
    with pytest.raises(NoPack, match="no pack"):
        verify_pack(other)
    with pytest.raises(NoPack, match="could not be read"):
        verify_pack(tmp_path / "none.zip")


def test_a_correction_says_who_needs_which_part(tmp_path):
    before = [ready("e1", 25.0), ready("e2", 60.0)]
    (first,) = issued(tmp_path, before)
    entries = {"all": first.manifest.items}
    # The same again.
    (again,) = issued(tmp_path, before, number=2, before=entries)
    assert [one.state for one in again.correction.items] == ["same", "same"]
    assert not again.correction.needed
    assert "same to the byte" in pdf_text(unpacked(tmp_path / again.file_name)["guide.pdf"])
    # Another crest in the small one, by its supports; new words in the other.
    small = before[0].checked
    crest = small.parts[0]
    moved = replace(crest, stance=crest.stance.model_copy(update={"spin": 10.0}))
    after = [replace(before[0], checked=replace(small, parts=(moved, *small.parts[1:]))), before[1]]
    after[1] = replace(
        after[1], proofed=StateKind.EXACT, checked=replace(after[1].checked, proofed="Proofed: proof 3.")
    )
    (second,) = issued(tmp_path, after, number=2, before=entries)
    assert [(one.state, one.changed) for one in second.correction.items] == [("changed", ("Crest",)), ("words", ())]
    assert second.manifest.changed[0].endswith("needs it: print Crest again.")
    # One left out, one new: what has another place in the set is the same item.
    gone = correction_of(first.manifest.items, (first.manifest.items[1],))
    assert [(one.item[6:8], one.state) for one in gone.items] == [("60", "same"), ("25", "gone")]
    assert correction_of((), first.manifest.items).items[0].state == "new"


def test_terms_stop_outright_and_what_stops_wants_a_word():
    figure = checked(25.0)
    finding = next(iter(figure.findings)).model_copy(update={"severity": Severity.STOP, "code": "thin-wall"})
    forbidden = finding.model_copy(update={"code": "terms-forbid", "severity": Severity.NOTE})
    plain = release_of([])
    told = plain.model_copy(update={"words": (Word(code="thin-wall", says="x"), Word(code="terms-forbid", says="x"))})
    assert [(hold.code, hold.word_helps) for hold in holds_of(plain, 0, [finding, finding, forbidden], 1)] == [
        ("thin-wall", True), ("terms-forbid", False),
    ]  # fmt: skip
    assert [hold.code for hold in holds_of(told, 0, [finding, forbidden], 1)] == ["terms-forbid"]
    assert not holds_of(plain, 0, [finding.model_copy(update={"accepted": True})], 1)
    assert holds_of(plain, 0, [], 0)[0].title == "Nothing is left of it"


def test_names_sort_and_clash_nowhere():
    assert sorted([item_name("A", tall, 3, False, 1, False) for tall in (7.0, 32.5, 150.0)]) == [
        "a_007mm_solid_whole", "a_032-5mm_solid_whole", "a_150mm_solid_whole",
    ]  # fmt: skip
    assert unclashing(["Rib", "rib", "RIB", "rib-2"]) == ("Rib", "rib-2", "RIB-3", "rib-2-2")
    assert [safe_name(name) for name in ("AUX", "…", "a" * 99, "ß/\\:*?")] == [
        "aux-figure", "figure", "a" * 60, "figure",
    ]  # fmt: skip
    twins = [ready("e1", 25.0), ready("e2", 25.0)]
    assert len(set(item_names(twins))) == 2


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"items": (Item(figure=1, edition="e"), Item(figure=1, edition="e"))}, "twice"),
        ({"tiers": (Tier(name="Bought!"), Tier(name="bought"))}, "no file system tells apart"),
        ({"tiers": (Tier(name="a", items=(3,)),)}, "not in the set"),
        ({"reports": (Report(id="a", came=DAY, issue=1, item=0),)}, "a report is on an item"),
        ({"listings": (Listing(shop="S", tier="gone"),)}, "not there"),
        ({"listings": (Listing(shop="S", tier="bought"), Listing(shop="s", tier="bought"))}, "listed twice"),
    ],
)
def test_a_set_that_contradicts_itself_is_refused(change, says):
    with pytest.raises(ValueError, match=says):
        ReleaseSet(name="Set", **change)


def test_reports_of_one_thing_are_joined_and_stand_against_buyers():
    items = (Item(figure=1, edition="e1"), Item(figure=1, edition="e2"), Item(figure=2, edition="e1"))
    said = {"came": DAY, "issue": 1, "part": "crest", "cause": Cause.THIN_PART, "point": (0, 0, 30)}
    reports = (
        Report(id="a", item=0, **said),
        Report(id="b", item=1, **{**said, "point": (0, 1, 33)}),
        Report(id="c", item=1, **{**said, "point": (0, 0, 3)}),
        Report(id="d", item=2, **said),
        Report(id="e", item=0, **{**said, "cause": Cause.WARP}),
        Report(id="f", item=None, **said),
    )
    tiers = (Tier(name="all", items=(0, 1)),)
    listings = (Listing(shop="S", tier="all", buyers=20), Listing(shop="T", tier="all", buyers=4))
    release = ReleaseSet(name="Set", items=items, tiers=tiers, listings=listings, reports=reports)
    assert [one.ids for one in joined_reports(release)] == [("a", "b"), ("c",), ("d",), ("e",), ("f",)]
    assert [(one.reports, one.buyers, one.share) for one in rates_of(release)] == [
        (2, 24, 2 / 24), (2, 24, 2 / 24), (1, 0, None),
    ]  # fmt: skip


def test_a_tick_holds_until_what_was_ticked_changes():
    listing = Listing(shop="S", tier="all", title="Crane", text="Birds", price=4.5)
    told = PackTold(issue=1, file_name="a.zip", sha256="1" * 64, bytes=1, terms=("Mine.",), pictures=("2" * 64,))
    ticked = listing.model_copy(update={"ticked": {row.what: row.digest for row in listing_rows(listing, told)}})
    assert all(row.done for row in listing_rows(ticked, told))
    corrected = told.model_copy(update={"issue": 2, "sha256": "3" * 64})
    assert [(row.what, row.changed) for row in listing_rows(ticked, corrected) if not row.done] == [("file", True)]
    dearer = ticked.model_copy(update={"price": 5.0})
    assert [row.what for row in listing_rows(dearer, told) if not row.done] == ["price"]


def test_the_manifest_is_read_back_as_it_was_written(pack):
    path, made, _ = pack
    held = unpacked(path)[MANIFEST]
    assert Manifest.model_validate_json(held) == made.manifest
    assert json.loads(held)["manifest"] == "release-pack/1"
    assert Path(made.file_name).name == "fen-birds_01_all.zip"
