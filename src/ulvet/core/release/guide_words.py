"""What the guide of a pack says, from what was built, checked and proofed."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from ulvet.core.bench.settings_card import settings_card
from ulvet.core.finish.checks import colour_plan
from ulvet.core.finish.steps import Coat
from ulvet.core.layers.clock import hours_and_minutes
from ulvet.core.lengths import spoken
from ulvet.core.provenance.named import named_in_release
from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.guide import Block, Guide, Picture, Rows, Section, Sentence, sentences
from ulvet.core.release.manifest import ItemEntry
from ulvet.core.stand.ways import cleanup_of

__all__ = ["GuideItem", "Measured", "guide_of"]

_LIMBS = 5
"""Weak limbs that buyers are told of (bench default)."""


@dataclass(frozen=True)
class Measured:
    """What the proof of exactly these files took, as it was measured."""

    proof: int
    seconds: float | None
    ml: float | None


@dataclass(frozen=True)
class GuideItem:
    """An item as the guide tells of it: what was built, its entry in the manifest, its pictures."""

    checked: CheckedFigure
    entry: ItemEntry
    front: bytes
    back: bytes
    numbered: bytes | None
    """Its parts pulled apart with their numbers; None of a single part."""
    measured: Measured | None = None


def guide_of(
    name: str,
    number: int,
    date: datetime.date,
    tier: str,
    items: Sequence[GuideItem],
    changed: Sequence[str] = (),
    added: Sequence[str] = (),
) -> Guide:
    """The guide of a pack: ``changed`` is what the issue has otherwise, ``added`` are sentences of the designer."""
    sections = [Section("What is in it", (_contents(items), Sentence(_HOW_NAMED, "soft")))]
    if changed:
        sections.append(Section("What changed, and who needs it", sentences(changed)))
    if added:
        sections.append(Section("Good to know", sentences(added)))
    for item in items:
        sections += _item_sections(item)
    sections += _closing(items)
    return Guide(title=name, lead=f"Issue {number}, {date:%d %B %Y}, {tier}.", sections=tuple(sections))


_HOW_NAMED = (
    "A file is named by figure, height in mm, form, and the number and name of its part; the number is the one sunk "
    "into the part's joints where they have room for it. “supported” has supports and lies as it prints. All lengths "
    "are mm, z is up."
)


def _contents(items: Sequence[GuideItem]) -> Rows:
    rows = [
        (
            item.entry.name,
            " × ".join(spoken(side) for side in item.entry.size_mm),
            str(len(item.entry.parts)),
            hours_and_minutes(sum(part.seconds or 0.0 for part in item.entry.parts)),
            f"{sum(part.material_ml or 0.0 for part in item.entry.parts):.1f}",
            item.entry.proofed_says,
        )
        for item in items
    ]
    head = ("item", "wide × deep × tall, mm", "parts", "hours, estimate", "ml, estimate", "proofed")
    return Rows(head, tuple(rows))


def _item_sections(item: GuideItem) -> list[Section]:
    entry, checked = item.entry, item.checked
    sides = (Picture(item.front, f"{entry.name}, front", 78), Picture(item.back, f"{entry.name}, back", 78))
    sections = [Section(entry.name, (sides, Sentence(entry.proofed_says), *_parts_blocks(item)))]
    sections.append(Section("Printing it", _printing(item), 2))
    for title, blocks in (
        ("How it goes together", _together(checked)),
        ("Supports and scars", _supports(checked)),
        ("Openings", _openings(checked)),
        ("Bought parts", _bought(checked)),
        ("What breaks first", _breaks(checked)),
        ("Colours", _colours(checked)),
        ("Open findings", _open(entry)),
    ):
        if blocks:
            sections.append(Section(title, blocks, 2))
    return sections


def _parts_blocks(item: GuideItem) -> tuple[Block, ...]:
    rows = tuple(
        (
            str(part.number),
            part.called,
            " × ".join(spoken(side) for side in part.size_mm),
            f"{part.triangles:,}",
            f"{part.volume_ml:.1f}",
            "" if part.seconds is None else hours_and_minutes(part.seconds),
            "" if part.material_ml is None else f"{part.material_ml:.1f}",
        )
        for part in item.entry.parts
    )
    table = Rows(("no.", "part", "size, mm", "triangles", "volume, ml", "hours", "material, ml"), rows)
    if item.numbered is None:
        return (table,)
    return ((Picture(item.numbered, "Its parts by number, pulled apart along their ways in", 120),), table)


def _printing(item: GuideItem) -> tuple[Block, ...]:
    """The card of settings."""
    checked = item.checked
    blocks: list[Block] = [Rows((), settings_card(checked.setup))]
    for part, own in sorted(checked.own_setups.items()):
        called = {facts.part: facts.called for facts in checked.facts}
        blocks.append(Sentence(f"{called.get(part, part)} is printed otherwise:"))
        blocks.append(Rows((), settings_card(own)))
    model = next((estimate.model for estimate in checked.estimates if estimate), None)
    if item.measured is not None:
        took = [
            f"{hours_and_minutes(item.measured.seconds)} h" if item.measured.seconds else "",
            f"{item.measured.ml:.1f} ml" if item.measured.ml else "",
        ]
        if said := ", ".join(one for one in took if one):
            blocks.append(Sentence(f"Measured in proof {item.measured.proof}, with all that lay on its plate: {said}."))
    if model:
        blocks.append(Sentence(f"Hours and material are estimates. {model}", "soft"))
    return tuple(blocks)


def _together(checked: CheckedFigure) -> tuple[Block, ...]:
    assembly = checked.assembly
    if not assembly.joints:
        return ()
    called = {facts.part: facts.called for facts in checked.facts}
    numbers = {facts.part: number for number, facts in enumerate(checked.facts, 1)}

    def named(part: str) -> str:
        return f"{numbers[part]} {called[part]}" if part in numbers else part

    rows = [("1", f"{named(assembly.first)}, laid ready", "", "")]
    for at, step in enumerate(assembly.order, 2):
        glue = f"{step.glue}, {step.area_mm2:.0f} mm²" if step.glue else "pushed in"
        hold = f"{step.minutes:.0f} min" if step.minutes else ""
        rows.append((str(at), " with ".join(map(named, step.parts)), glue, hold))
    blocks: list[Block] = [Rows(("step", "part", "glue", "hold"), tuple(rows))]
    blocks += [Sentence(f"{named(one.part)} cannot be put in as drawn.", "warns") for one in assembly.blocked]
    blocks.append(Sentence("Try everything dry first. Sand faces that are glued flat, rough and free of dust."))
    return tuple(blocks)


def _supports(checked: CheckedFigure) -> tuple[Block, ...]:
    rows = []
    for part, facts in zip(checked.parts, checked.facts, strict=True):
        contacts = facts.stance.contacts
        if part.supports is None or not contacts:
            continue
        tips = [float(one.tip_mm) for one in contacts]
        hard = sum(not one.reachable for one in contacts)
        rows.append(
            (
                facts.called,
                str(len(contacts)),
                f"{min(tips):.2f} to {max(tips):.2f}",
                str(sum(one.shows for one in contacts)),
                str(hard),
                f"{cleanup_of(contacts):.0f}",
            )
        )
    if not rows:
        return ()
    head = ("part", "tips", "across, mm", "where it shows", "hard to reach", "clean-up, min (estimate)")
    off = (
        "Soak the print in warm water and cut the tips with side cutters, one by one, from the outside in; tearing "
        "takes skin with it. Every tip leaves a dot to sand away."
        if checked.setup.printer.process == "resin"
        else "Break supports off once the print is cold, then pare what is left with a knife, away from your hand."
    )
    return (Rows(head, tuple(rows)), Sentence(off))


def _openings(checked: CheckedFigure) -> tuple[Block, ...]:
    rows = [
        (
            facts.called,
            spoken(opening.diameter),
            " ".join(spoken(value * facts.factor) for value in opening.point),
            "a plug goes in after the wash" if opening.plugged else "stays open, or is filled",
        )
        for part, facts in zip(checked.parts, checked.facts, strict=True)
        for opening in part.openings
    ]
    if not rows:
        return ()
    wash = "Rinse through every opening until what runs out is clear, let it dry, and let lamplight in as well."
    return (Rows(("part", "across, mm", "at, mm", "afterwards"), tuple(rows)), Sentence(wash))


def _bought(checked: CheckedFigure) -> tuple[Block, ...]:
    told: dict[tuple[str, str], int] = {}
    for insert in checked.inserts:
        length = "" if insert.length is None else f"{spoken(insert.length)} mm"
        key = (insert.name or "wire", length)
        told[key] = told.get(key, 0) + 1
    rows = tuple((str(count), name, length) for (name, length), count in sorted(told.items()))
    return (Rows(("pieces", "what", "cut to"), rows),) if rows else ()


def _breaks(checked: CheckedFigure) -> tuple[Block, ...]:
    rows = tuple(
        (limb.name, f"{limb.force_N:.1f}", spoken(limb.section_mm), "likely" if limb.drop else "")
        for limb in checked.limbs[:_LIMBS]
    )
    if not rows:
        return ()
    head = ("what", "push at its tip, N (estimate)", "thickness there, mm", "breaks in a fall from a table")
    return (Rows(head, rows),)


def _colours(checked: CheckedFigure) -> tuple[Block, ...]:
    """The scheme that is meant, role by role; nothing where no colour was said."""
    plan = colour_plan(checked.recipe)
    if plan is None or plan.meant is None:
        return ()
    rows = tuple(
        (one.role, "stays bare" if one.bare else ", then ".join(map(_coat, one.coats)))
        for one in plan.meant.roles
        if one.bare or one.coats
    )
    return (Rows(("what", f"painted with, scheme {plan.meant.name}"), rows),) if rows else ()


def _coat(coat: Coat) -> str:
    drops = ", ".join(f"{count:g} {name.replace('-', ' ')}" for name, count in coat.drops.items())
    many = f", {coat.coats} coats" if coat.coats > 1 else ""
    return f"{coat.kind} {drops or coat.paint.replace('-', ' ')}{many}"


def _open(entry: ItemEntry) -> tuple[Block, ...]:
    said = dict.fromkeys(one.says for one in entry.open)
    missed = [Sentence(f"Not looked at: {why}", "warns") for why in entry.not_looked_at]
    return (*sentences(list(said)), *missed)


def _closing(items: Sequence[GuideItem]) -> list[Section]:
    sections = []
    named = dict.fromkeys(line for item in items for line in named_in_release(item.checked.recipe.steps))
    if named:
        sections.append(Section("Where it comes from, and what you may do with it", sentences(list(named))))
    processes = dict.fromkeys(item.checked.setup.printer.process for item in items)
    cautions = dict.fromkeys(one for process in processes for one in cautions_for(process))
    sections.append(Section("Cautions", sentences(list(cautions))))
    sections.append(
        Section(
            "Whether it is whole",
            (
                Sentence(
                    "manifest.json names every file with its SHA-256, and checksums.sha256 says the same for "
                    "“sha256sum -c”. “ulvet verify” followed by the name of the pack looks at every byte of it."
                ),
            ),
        )
    )
    return sections
