"""Pieces on plates: what the hand placed stays, the rest is packed by setting; printers that print alike share them."""

import hashlib
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ulvet.core.bench.bench import Bench
from ulvet.core.bench.setup import Setup
from ulvet.core.plates.packing import Lying
from ulvet.core.plates.plate import Piece, PlateTold, Risk, plates_of, room_of, told_of
from ulvet.core.plates.tasks import PlannedPlate
from ulvet.core.plates.wanted import HandPlate

__all__ = ["PackedPlate", "Packing", "WantedPiece", "alike_setups", "packed", "planned_plate"]

_TAG_LETTERS = 8
"""Letters of a plate's tag: enough that two plates of a plan hardly ever have the same."""


@dataclass(frozen=True)
class WantedPiece:
    """One copy of a part that is to be printed: what it is, as its layers show it, by which setting, the minutes its
    supports take, its size, and the number of the line that wants it."""

    figure: int
    edition: str
    part: str
    called: str
    layers: str
    piece: Piece
    setting: str
    cleanup_min: float
    size_mm: tuple[float, float, float]
    line: int
    painted: bool = False
    solid_mm3: float = 0.0
    """Of one that is not hollow; 0 where it is."""
    area_mm2: float = 0.0

    @property
    def same(self) -> tuple[int, str, str]:
        """What it shares with every other copy of the part."""
        return self.figure, self.edition, self.part


@dataclass(frozen=True)
class PackedPlate:
    """A plate: its setup, what lies where, by its number among ``pieces``, what it takes, and which of what lies on it
    the hand placed."""

    setup: Setup
    lying: tuple[Lying, ...]
    pieces: tuple[WantedPiece, ...]
    told: PlateTold
    by_hand: int = 0
    """So many of the first of ``lying``."""

    @property
    def margin(self) -> float:
        """Mm that parts keep from each other on it."""
        return room_of(self.setup).margin


@dataclass(frozen=True)
class Packing:
    """Plates; pieces that fit none; and what the hand placed and does not count any more, in words."""

    plates: tuple[PackedPlate, ...]
    unfit: tuple[WantedPiece, ...]
    changed: tuple[str, ...] = ()


def packed(
    wanted: Sequence[WantedPiece], bench: Bench, risk: Risk = Risk(), by_hand: Sequence[HandPlate] = ()
) -> Packing:
    """Pieces on as few plates as are found, a setting after the other.

    A piece that the hand placed stays while its layers are those it had then; where they changed it is packed anew, and
    that is told.
    """
    plates: list[PackedPlate] = []
    unfit: list[WantedPiece] = []
    changed: list[str] = []
    by_setting: dict[str, list[WantedPiece]] = defaultdict(list)
    for one in wanted:
        by_setting[one.setting].append(one)
    for setting in sorted(by_setting):
        setup, pieces = bench.setup(setting), by_setting[setting]
        fixed, lost = _fixed([plate for plate in by_hand if plate.setting == setting], pieces)
        changed += lost
        found, left = plates_of([one.piece for one in pieces], setup, risk, fixed)
        unfit += [pieces[k] for k in left]
        for at, (lying, told) in enumerate(found):
            numbered = tuple(replace(one, number=k) for k, one in enumerate(lying))
            plates.append(PackedPlate(setup, numbered, tuple(pieces[one.number] for one in lying), told,
                                      len(fixed[at]) if at < len(fixed) else 0))  # fmt: skip
    return Packing(tuple(plates), tuple(unfit), tuple(dict.fromkeys(changed)))


def _fixed(by_hand: Sequence[HandPlate], pieces: Sequence[WantedPiece]) -> tuple[list[list[Lying]], list[str]]:
    """What stays where the hand placed it, by the numbers of the pieces; and what does not count any more."""
    left: dict[tuple[int, str, str], list[int]] = defaultdict(list)
    for number, one in enumerate(pieces):
        left[one.same].append(number)
    fixed: list[list[Lying]] = []
    lost: list[str] = []
    for plate in by_hand:
        lying = []
        for placed in plate.lying:
            numbers = left[(placed.figure, placed.edition, placed.part)]
            if not numbers:
                continue
            called = pieces[numbers[0]].called
            if pieces[numbers[0]].layers != placed.layers:
                lost.append(f"{called} was changed since it was placed by hand, and is placed anew")
                continue
            lying.append(Lying(numbers.pop(0), placed.x, placed.y, placed.turn))
        if lying:
            fixed.append(lying)
    return fixed, lost


def alike_setups(bench: Bench, setup: Setup) -> Iterator[Setup]:
    """Setups that print the same layers of the same material on a plate that is as large, the one itself first."""
    yield setup
    seen = {setup.printer.id}
    for one in bench.settings:
        if one.retired or one.printer in seen:
            continue
        other = bench.setup(one.id)
        same = (
            other.process == setup.process
            and other.material.id == setup.material.id
            and (other.layer, other.pixel) == (setup.layer, setup.pixel)
            and all(a >= b for a, b in zip(other.printer.room, setup.printer.room, strict=True))
            and not other.retired
        )
        if same:
            seen.add(one.printer)
            yield other


def planned_plate(number: int, plate: PackedPlate, bench: Bench, tags: set[str]) -> PlannedPlate:
    """A plate as it is planned; its tag is of what lies on it, and none of ``tags``, to which it is added."""
    kinds = sorted("/".join(map(str, (*one.same, one.layers))) for one in plate.pieces)
    tag = _tag("\n".join([plate.setup.setting.id, *kinds]))
    while tag in tags:
        tag = _tag(tag)
    tags.add(tag)
    on = {
        setup.printer.id: told_of([one.piece for one in plate.pieces], setup).seconds
        for setup in alike_setups(bench, plate.setup)
    }
    largest = max((one.size_mm for one in plate.pieces), key=max)
    return PlannedPlate(
        number=number, printer=plate.setup.printer.id, setting=plate.setup.setting.id, process=plate.setup.process,
        told=plate.told, cleanup_min=sum(one.cleanup_min for one in plate.pieces), tag=tag, seconds_on=on,
        largest_mm=largest, lines=tuple(sorted({one.line for one in plate.pieces if one.painted})),
    )  # fmt: skip


def _tag(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()[:_TAG_LETTERS]
