"""An issue of a release set: every item made once, then a pack for every tier."""

import datetime
import hashlib
import json
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Protocol

from pydantic import BaseModel, ConfigDict, ValidationError

from ulvet import __version__
from ulvet.core.findings.facts import whole_size
from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.progress import Progress
from ulvet.core.proof.state import StateKind
from ulvet.core.provenance.check import BLOCKING
from ulvet.core.provenance.named import named_in_release
from ulvet.core.recipe.runner import Memory, measured_key, recipe_hash
from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.correction import Correction, correction_of
from ulvet.core.release.guide_paper import guide_html, guide_pdf
from ulvet.core.release.guide_words import GuideItem, Measured, guide_of
from ulvet.core.release.item_files import item_files
from ulvet.core.release.listing import pack_name
from ulvet.core.release.manifest import FileEntry, ItemEntry, Manifest, OpenEntry, PartEntry
from ulvet.core.release.names import item_name, unclashing
from ulvet.core.release.pack import Member, write_pack
from ulvet.core.release.pictures import numbered_parts, ruled_picture
from ulvet.core.release.recipe_file import RecipeFile
from ulvet.core.release.release_set import Item, ReleaseSet

__all__ = ["Hold", "Kept", "Pack", "ReadyItem", "holds_of", "item_names", "item_pictures", "make_issue"]

_AT_ONCE = 2
"""Items made at once, which keeps two cores at work and no more than two in memory."""
_GUIDE_SHARE, _WRITE_SHARE = 0.1, 0.5
"""Of the time an issue takes, what guides and writing take, roughly (measured on the demo figures)."""


class Kept(Protocol):
    """Where bytes are kept under their hash."""

    def put(self, data: bytes) -> str: ...

    def read(self, name: str) -> memoryview: ...

    def holds(self, name: str) -> bool: ...


@dataclass(frozen=True)
class ReadyItem:
    """An item with the build it is made of, and what proofs say of it in just this form."""

    item: Item
    figure_name: str
    edition_name: str
    checked: CheckedFigure
    proofed: StateKind = StateKind.NOT
    measured: Measured | None = None

    @property
    def mirrored(self) -> bool:
        """Whether its files are the mirror image of what was built."""
        return self.checked.edition.form.mirrored != self.item.mirrored

    @cached_property
    def made(self) -> CheckedFigure:
        """The build as it goes out."""
        return self.checked.mirrored() if self.mirrored else self.checked


class Hold(BaseModel):
    """What keeps an item from going out: ``code`` of the finding, or empty where it is something else."""

    model_config = ConfigDict(frozen=True)

    item: int
    code: str
    title: str
    why: str
    """What to do, in a sentence."""
    word_helps: bool
    """Whether a word to buyers is enough."""


class Pack(BaseModel):
    """A pack that was written."""

    model_config = ConfigDict(frozen=True)

    tier: str
    file_name: str
    sha256: str
    bytes: int
    manifest: Manifest
    correction: Correction | None
    pictures: tuple[str, ...]
    """Hashes of the front of every item."""


class _Made(BaseModel):
    """An item as it was made: its files and pictures by hash."""

    model_config = ConfigDict(frozen=True)

    files: tuple[tuple[FileEntry, str], ...]
    front: str
    back: str
    numbered: str | None

    @property
    def blobs(self) -> list[str]:
        return [name for _, name in self.files] + [one for one in (self.front, self.back, self.numbered) if one]


def holds_of(release: ReleaseSet, at: int, findings: Sequence[Finding], parts: int) -> tuple[Hold, ...]:
    """What keeps an item of a set from going out: what its terms or what it depicts forbid, outright; of what stops,
    whatever buyers are not told of."""
    found = []
    if not parts:
        why = "Look at its record: a step leaves none of it."
        found.append(Hold(item=at, code="", title="Nothing is left of it", why=why, word_helps=False))
    firsts: dict[str, Finding] = {}
    for finding in findings:
        firsts.setdefault(finding.code, finding)
    for finding in firsts.values():
        if finding.code in BLOCKING:
            why = "Settle it at Bring in; no word to buyers helps here."
            found.append(Hold(item=at, code=finding.code, title=finding.title, why=why, word_helps=False))
        elif finding.severity is Severity.STOP and not finding.accepted and release.word_on(finding.code) is None:
            first = next((remedy.label for remedy in finding.remedies), None)
            why = f"{first}, or say in a word to buyers why it goes out so." if first else "Say why it goes out so."
            found.append(Hold(item=at, code=finding.code, title=finding.title, why=why, word_helps=True))
    return tuple(found)


def item_names(items: Sequence[ReadyItem]) -> tuple[str, ...]:
    """The names of the items of a set, all told apart, sizes sorting within a figure."""
    widest = max((len(f"{one.checked.tall:.0f}") for one in items), default=1)
    return unclashing(
        item_name(
            one.figure_name,
            one.checked.tall,
            widest,
            one.checked.edition.form.hollow and any(part.openings for part in one.checked.parts),
            len(one.checked.parts),
            one.mirrored,
            one.checked.edition.form.pockets,
        )
        for one in items
    )


def make_issue(
    release: ReleaseSet,
    items: Sequence[ReadyItem],
    number: int,
    date: datetime.date,
    before: dict[str, tuple[ItemEntry, ...]],
    kept: Kept,
    memory: Memory,
    out: Path,
    progress: Progress,
) -> tuple[Pack, ...]:
    """Make every item that is in a tier, unless it was made before, then write a pack a tier into the folder ``out``.
    ``before`` are the items of each tier's issue before this one.

    Equal sets of equal builds give equal bytes.
    """
    names = item_names(items)
    meant = sorted({at for tier in release.tiers for at in tier.items})
    made: dict[int, _Made] = {}
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        coming = pool.map(lambda at: _made(items[at], names[at], kept, memory), meant)
        for done, at in enumerate(meant):
            progress((1 - _WRITE_SHARE - _GUIDE_SHARE) * done / len(meant), f"making {names[at]}")
            made[at] = next(coming)
    entries = {at: _entry(release, items[at], names[at]) for at in meant}
    tiers = [tier for tier in release.tiers if tier.items]
    packs = []
    for done, tier in enumerate(tiers):
        begin = 1 - _WRITE_SHARE - _GUIDE_SHARE + (_WRITE_SHARE + _GUIDE_SHARE) * done / len(tiers)
        share = (_WRITE_SHARE + _GUIDE_SHARE) / len(tiers)
        progress(begin, f"writing the guide for {tier.name}")
        chosen = [(items[at], entries[at], made[at]) for at in sorted(tier.items)]
        packs.append(
            _pack(release, tier.name, chosen, number, date, before.get(tier.name), kept, out, begin, share, progress)
        )
    return tuple(packs)


_Chosen = tuple[ReadyItem, ItemEntry, _Made]


def _pack(
    release: ReleaseSet, tier: str, chosen: Sequence[_Chosen], number: int, date: datetime.date,
    before: tuple[ItemEntry, ...] | None, kept: Kept, out: Path, begin: float, share: float, progress: Progress,
) -> Pack:  # fmt: skip
    entries = [entry for _, entry, _ in chosen]
    correction = None if before is None else correction_of(before, entries)
    changed = correction.says if correction else ()
    guide = guide_of(
        release.name, number, date, tier, [_told(one, kept) for one in chosen], changed,
        [sentence.says for sentence in release.guide],
    )  # fmt: skip
    own = {"guide.pdf": guide_pdf(guide), "guide.html": guide_html(guide)}
    for item, entry, _ in chosen:
        recipe = RecipeFile.of(item.figure_name, item.checked.recipe, item.checked.edition)
        own[f"recipes/{entry.name}.json"] = recipe.to_bytes()
    held = [Member(_file(name, data), lambda data=data: (data,)) for name, data in own.items()]  # type: ignore[misc]
    held += [Member(entry, lambda name=name: (kept.read(name),)) for _, _, made in chosen for entry, name in made.files]  # type: ignore[misc]
    held.sort(key=lambda member: member.entry.name)
    processes = dict.fromkeys(item.checked.setup.printer.process for item, _, _ in chosen)
    manifest = Manifest(
        made_with=f"Ulvet {__version__}", name=release.name, number=number, date=date, tier=tier, changed=changed,
        terms=_terms(chosen), cautions=tuple(dict.fromkeys(one for each in processes for one in cautions_for(each))),
        items=tuple(entries), files=tuple(member.entry for member in held),
    )  # fmt: skip
    total, wrote = sum(entry.bytes for entry in manifest.files), 0

    def told(count: int) -> None:
        nonlocal wrote
        wrote += count
        progress(begin + share * wrote / max(total, 1), f"packing for {tier}, {wrote / 1e6:,.0f} MB")

    path = out / pack_name(release.name, number, tier)
    write_pack(path, manifest, held, told)
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
    return Pack(
        tier=tier, file_name=path.name, sha256=digest, bytes=path.stat().st_size, manifest=manifest,
        correction=correction, pictures=tuple(made.front for _, _, made in chosen),
    )  # fmt: skip


def _terms(chosen: Sequence[_Chosen]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(line for item, _, _ in chosen for line in named_in_release(item.checked.recipe.steps)))


def _told(chosen: _Chosen, kept: Kept) -> GuideItem:
    item, entry, made = chosen
    numbered = None if made.numbered is None else bytes(kept.read(made.numbered))
    return GuideItem(
        item.made, entry, bytes(kept.read(made.front)), bytes(kept.read(made.back)), numbered, item.measured
    )


def _made(ready: ReadyItem, name: str, kept: Kept, memory: Memory) -> _Made:
    """An item's files and pictures, made unless they are kept."""
    checked = ready.made
    forms = [_form(checked, at) for at in range(len(checked.parts))]
    asked = ready.item.model_dump(mode="json", include={"kinds", "supported"})
    key = measured_key("release-item", name, forms, [part.called for part in checked.parts], asked)
    known = memory.recall_measured(key)
    if known is not None:
        try:
            made = _Made.model_validate_json(known)
        except ValidationError:
            made = None
        if made is not None and all(map(kept.holds, made.blobs)):
            return made
    files = []
    for file in item_files(checked, name, ready.item.kinds, ready.item.supported):
        entry = _file(file.name, file.data, name, file.part, file.watertight)
        files.append((entry, kept.put(file.data)))
    front, back, numbered = item_pictures(checked, kept, memory)
    made = _Made(files=tuple(files), front=front, back=back, numbered=numbered)
    memory.keep_measured(key, made.model_dump_json().encode())
    return made


def item_pictures(checked: CheckedFigure, kept: Kept, memory: Memory) -> tuple[str, str, str | None]:
    """Front, back and, of several parts, those by number, unless they are kept: blobs by hash."""
    meshes = {part.name: part.mesh for part in checked.parts}
    factor, apart = checked.facts[0].factor, checked.assembly.apart
    key = measured_key("release-pictures", [mesh.hash for mesh in meshes.values()], factor, apart)
    if (known := memory.recall_measured(key)) is not None:
        front, back, numbered = json.loads(known)
        if all(map(kept.holds, filter(None, (front, back, numbered)))):
            return front, back, numbered
    numbers = {part.name: str(number) for number, part in enumerate(checked.parts, 1)}
    front = kept.put(ruled_picture(list(meshes.values()), factor, back=False))
    back = kept.put(ruled_picture(list(meshes.values()), factor, back=True))
    numbered = kept.put(numbered_parts(meshes, apart, numbers)) if len(meshes) > 1 else None
    memory.keep_measured(key, json.dumps([front, back, numbered]).encode())
    return front, back, numbered


def _file(name: str, data: bytes, item: str = "", part: str = "", watertight: bool | None = None) -> FileEntry:
    digest = hashlib.sha256(data).hexdigest()
    return FileEntry(name=name, bytes=len(data), sha256=digest, item=item, part=part, watertight=watertight)


def _form(checked: CheckedFigure, at: int) -> str:
    """The hash of what a part is made of."""
    part, facts = checked.parts[at], checked.facts[at]
    said = [
        part.mesh.hash, part.supports.hash if part.supports is not None else None, facts.factor, list(part.stance.up),
        part.stance.spin, float(part.stance.lift),
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(said).encode()).hexdigest()


def _entry(release: ReleaseSet, ready: ReadyItem, name: str) -> ItemEntry:
    checked = ready.made
    setup = checked.setup
    parts = []
    for at, (part, facts, estimate) in enumerate(zip(checked.parts, checked.facts, checked.estimates, strict=True)):
        parts.append(
            PartEntry(
                number=at + 1, part=part.name, called=facts.called, size_mm=facts.size_mm, triangles=facts.triangles,
                volume_ml=facts.volume_mm3 / 1000, seconds=estimate.seconds if estimate else None,
                material_ml=estimate.material_ml if estimate else None, form_sha256=_form(checked, at),
            )
        )  # fmt: skip
    return ItemEntry(
        name=name, figure=ready.item.figure, figure_name=ready.figure_name, edition=ready.item.edition,
        edition_name=ready.edition_name, mirrored=ready.mirrored, factor=checked.facts[0].factor,
        size_mm=whole_size(checked.facts),
        printer=setup.printer.name, material=setup.material.name, setting=setup.setting.name,
        layer_mm=float(setup.layer), proofed=ready.proofed, proofed_says=checked.proofed,
        recipe_sha256=recipe_hash(checked.recipe), parts=tuple(parts),
        open=tuple(_open(release, finding) for finding in checked.findings),
        not_looked_at=tuple(f"{gap.part}, {gap.station}: {gap.why}" for gap in checked.unseen),
    )  # fmt: skip


def _open(release: ReleaseSet, finding: Finding) -> OpenEntry:
    return OpenEntry(
        code=finding.code, severity=finding.severity, part=finding.part, title=finding.title,
        says=release.word_on(finding.code) or finding.title,
    )  # fmt: skip
