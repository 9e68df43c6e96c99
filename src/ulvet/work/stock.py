"""The studio's stock: a ledger of what was entered, and of what its prints took."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

from sqlalchemy import select

from ulvet.core.bench.paints import Paint
from ulvet.core.finish.mix import shares_of
from ulvet.core.stock.good import (
    Good,
    goods_of,
    key_of_material,
    key_of_mix,
    key_of_paint,
    material_amount,
)
from ulvet.core.stock.ledger import Entry, EntryKind, balances
from ulvet.core.stock.ledger_csv import read_ledger_csv
from ulvet.store.database import Sessions
from ulvet.store.models import StockEntry
from ulvet.work.bench import StudioBench
from ulvet.work.painting import Mixes, PaintedCopies
from ulvet.work.proofs import Proofs
from ulvet.work.refusals import NotThere, Refused

__all__ = ["LedgerLine", "Stock"]


@dataclass(frozen=True)
class LedgerLine:
    """A line of the ledger. ``number`` is of one that was entered, and can be struck out; None of one that follows
    from a print."""

    number: int | None
    entry: Entry


class Stock:
    """What a studio has of materials, paints and bought parts."""

    def __init__(
        self, sessions: Sessions, bench: StudioBench, proofs: Proofs, painted: PaintedCopies, mixes: Mixes
    ) -> None:
        self._sessions, self._bench, self._proofs = sessions, bench, proofs
        self._painted, self._mixes = painted, mixes

    def goods(self) -> tuple[Good, ...]:
        """What may be in stock: what the bench names, and mixes."""
        bench = self._bench.value
        prices = {paint.id: paint.price_a_ml for paint in bench.paints}
        mixes = [
            Good(key=key_of_mix(number), name=f"{mix.name}, mixed {mix.day.isoformat()}", unit="ml",
                 price=sum(share * prices.get(paint, 0.0) for paint, share in shares_of(mix, self._paints()).items()))
            for number, mix in self._mixes.all()
        ]  # fmt: skip
        return (*goods_of(bench), *mixes)

    def lines(self) -> tuple[LedgerLine, ...]:
        """Every line that counts, by day; on one day those that were entered come first."""
        with self._sessions() as session:
            rows = session.scalars(select(StockEntry).where(StockEntry.struck.is_(None)).order_by(StockEntry.id))
            entered = [LedgerLine(row.id, row.entry) for row in rows if isinstance(row.entry, Entry)]
        followed = [*self._of_prints(), *self._of_mixes(), *self._of_painting()]
        return tuple(sorted([*entered, *followed], key=lambda line: line.entry.day))

    def there(self) -> dict[str, float]:
        """By good what is there, of those that somebody has counted or had delivered."""
        return balances(line.entry for line in self.lines())

    def enter(self, good: str, kind: EntryKind, amount: float, day: date, says: str = "") -> int:
        """Keep a line: so much delivered, used, thrown away, or, of a count, so much there. Its number.

        Raises Refused for a good that is not on the bench, and for more taken than is there.
        """
        known = self._known(good)
        there = self.there().get(good)
        if amount < 0 or (amount == 0 and kind is not EntryKind.COUNTED):
            raise Refused(
                "An amount is more than nothing: enter how much it was, and what became of it; nothing changed."
            )
        taken = kind in (EntryKind.USED, EntryKind.THROWN_AWAY)
        if taken and there is not None and amount > there:
            raise Refused(
                f"Only {there:.1f} {known.unit} of {known.name} are there by the ledger: count what is there first, if "
                "it is more; nothing was changed."
            )
        change = -amount if taken else amount
        if kind is EntryKind.COUNTED:
            change = amount - self._sum_of(good)
        return self._kept([Entry(good=good, day=day, kind=kind, amount=change, says=says)])[0]

    def enter_csv(self, content: bytes) -> tuple[int, ...]:
        """Keep the lines of a CSV that are not there yet, all or none; their numbers.

        Raises UnreadableFile, and Refused where it would leave less than nothing.
        """
        goods = self.goods()
        before = [line.entry for line in self.lines()]
        new = read_ledger_csv(content, goods, before)
        after = balances([*before, *new])
        names = {good.key: good for good in goods}
        for good, amount in after.items():
            if amount < 0 and any(entry.good == good for entry in new):
                raise Refused(
                    f"With these lines there would be {amount:.1f} {names[good].unit} of {names[good].name}, which is "
                    "less than nothing: nothing was entered."
                )
        return tuple(self._kept(new))

    def strike(self, number: int, struck: bool = True) -> None:
        """Let a line count no more, or again.

        Raises NotThere.
        """
        with self._sessions.begin() as session:
            row = session.get(StockEntry, number)
            if row is None:
                raise NotThere("There is no such line in the ledger: look at it again.")
            row.struck = datetime.now(UTC) if struck else None

    def _known(self, good: str) -> Good:
        found = next((one for one in self.goods() if one.key == good), None)
        if found is None:
            raise Refused("That is not on the bench: put it there first; nothing was changed.")
        return found

    def _sum_of(self, good: str) -> float:
        """What a count is told against: the sum of all lines, those of prints before the first count too."""
        return sum(line.entry.amount for line in self.lines() if line.entry.good == good)

    def _kept(self, entries: Sequence[Entry]) -> list[int]:
        with self._sessions.begin() as session:
            rows = [StockEntry(entry=entry) for entry in entries]
            session.add_all(rows)
            session.flush()
            return [row.id for row in rows]

    def _of_prints(self) -> list[LedgerLine]:
        """What prints that ended took: as it was weighed, else as it was told."""
        bench = self._bench.value
        lines = []
        for one in self._proofs.all():
            proof = one.value
            if proof.came.ended is None:
                continue
            ml = proof.told.ml if proof.came.ml is None else proof.came.ml
            entry = Entry(
                good=key_of_material(proof.material), day=proof.came.ended.astimezone().date(), kind=EntryKind.USED,
                amount=-material_amount(bench, proof.material, ml), says=f"proof {one.number}",
            )  # fmt: skip
            lines.append(LedgerLine(None, entry))
        return lines

    def _of_mixes(self) -> list[LedgerLine]:
        """What mixes took of their paints, and what there came to be of them."""
        paints = self._paints()
        lines = []
        for number, mix in self._mixes.all():
            made = Entry(
                good=key_of_mix(number), day=mix.day, kind=EntryKind.DELIVERED, amount=mix.made_ml, says="mixed"
            )
            lines.append(LedgerLine(None, made))
            for paint, share in shares_of(mix, paints).items():
                used = Entry(
                    good=key_of_paint(paint), day=mix.day, kind=EntryKind.USED, amount=-share * mix.made_ml,
                    says=f"mixed into {mix.name}",
                )  # fmt: skip
                lines.append(LedgerLine(None, used))
        return lines

    def _of_painting(self) -> list[LedgerLine]:
        """What copies that are painted took, as it was told."""
        return [
            LedgerLine(None, Entry(good=key_of_paint(paint), day=one.value.ended.astimezone().date(),
                                   kind=EntryKind.USED, amount=-ml, says=f"painted copy {one.number}"))
            for one in self._painted.all()
            if one.value.ended is not None
            for paint, ml in one.value.takes.items()
        ]  # fmt: skip

    def _paints(self) -> dict[str, Paint]:
        return {paint.id: paint for paint in self._bench.value.paints}
