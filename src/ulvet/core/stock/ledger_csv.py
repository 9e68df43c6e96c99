"""The ledger as CSV (RFC 4180), out and in."""

import csv
import io
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import date

from pydantic import ValidationError

from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.stock.good import Good
from ulvet.core.stock.ledger import Entry, EntryKind

__all__ = ["ledger_csv", "read_ledger_csv"]

_COLUMNS = ("day", "good", "name", "what", "change", "there", "unit", "note")
_NEEDED = ("day", "good", "what")
_MOST_LINES = 20_000
"""Lines that one file may have (bench default)."""
_FORMULA = ("=", "+", "-", "@", "\t", "'")
"""How a note must not begin: a spreadsheet would take it for a formula, or for one that was made harmless."""
_DIGITS = 4
"""Decimals of an amount that is written."""


def ledger_csv(entries: Sequence[Entry], goods: Sequence[Good]) -> str:
    """Every entry as a line: what it changed, and what was there after it. The first line names the columns; notes that
    a spreadsheet would take for a formula begin with an apostrophe."""
    known = {good.key: good for good in goods}
    there: dict[str, float] = defaultdict(float)
    out = io.StringIO()
    lines = csv.writer(out)
    lines.writerow(_COLUMNS)
    for entry in entries:
        good = known.get(entry.good)
        there[entry.good] += entry.amount
        note = f"'{entry.says}" if entry.says.startswith(_FORMULA) else entry.says
        lines.writerow(
            [entry.day.isoformat(), entry.good, good.name if good else "", entry.kind.value,
             f"{entry.amount:.{_DIGITS}f}", f"{there[entry.good]:.{_DIGITS}f}", good.unit if good else "", note]
        )  # fmt: skip
    return out.getvalue()


def read_ledger_csv(content: bytes, goods: Sequence[Good], before: Sequence[Entry]) -> list[Entry]:
    """The entries of a CSV that are not among those ``before``, in its order.

    Its first line names the columns: day, good (by key or name) and what, and of ``change`` and ``there`` the one that
    a line has; a count may say what is there alone.

    Raises UnreadableFile with the line that cannot be read.
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnreadableFile("This is no text in UTF-8: save the table as CSV, UTF-8; nothing was entered.") from error
    by_name = {**{good.name.lower(): good.key for good in goods}, **{good.key: good.key for good in goods}}
    # A semicolon parts columns where a comma is the decimal sign.
    head = text.split("\n", 1)[0]
    rows = csv.DictReader(io.StringIO(text, newline=""), delimiter=";" if head.count(";") > head.count(",") else ",")
    missing = [name for name in _NEEDED if name not in (rows.fieldnames or ())]
    if missing:
        raise UnreadableFile(f"The first line has to name the column {missing[0]}; nothing was entered.")
    return _new_entries(rows, by_name, before)


def _new_entries(
    rows: "csv.DictReader[str]", by_name: Mapping[str, str], before: Sequence[Entry]
) -> list[Entry]:  # fmt: skip
    known = Counter(_as_written(before))
    sums: dict[str, float] = defaultdict(float)
    for entry in before:
        sums[entry.good] += entry.amount
    entries: list[Entry] = []
    try:
        for line, row in enumerate(rows, 1):
            if line > _MOST_LINES:
                raise UnreadableFile(f"There are more than {_MOST_LINES} lines: part the file; nothing was entered.")
            entry = _entry(row, rows.line_num, by_name, sums)
            written = next(iter(_as_written([entry])))
            if known[written]:
                known[written] -= 1
                continue
            sums[entry.good] += entry.amount
            entries.append(entry)
    except csv.Error as error:
        raise UnreadableFile(f"Line {rows.line_num} is no CSV: {error}; nothing was entered.") from error
    return entries


def _as_written(entries: Iterable[Entry]) -> list[tuple[str, date, str, float, str]]:
    return [(one.good, one.day, one.kind.value, round(one.amount, _DIGITS), one.says) for one in entries]


def _entry(row: Mapping[str, str | None], line: int, by_name: Mapping[str, str], sums: Mapping[str, float]) -> Entry:
    held = {name: (row.get(name) or "").strip() for name in _COLUMNS}
    good = by_name.get(held["good"]) or by_name.get(held["good"].lower())
    if good is None:
        raise UnreadableFile(f"Line {line}: nothing on the bench is called “{held['good']}”; nothing was entered.")
    try:
        kind = EntryKind(held["what"])
        if held["change"] or kind is not EntryKind.COUNTED:
            amount = _number(held["change"])
        else:
            amount = _number(held["there"]) - sums.get(good, 0.0)
        return Entry(good=good, day=date.fromisoformat(held["day"]), kind=kind, amount=amount,
                     says=held["note"].removeprefix("'"))  # fmt: skip
    except ValidationError as error:
        raise UnreadableFile(f"Line {line}: {error.errors()[0]['msg'].lower()}; nothing was entered.") from error
    except ValueError as error:
        kinds = ", ".join(kind.value for kind in EntryKind)
        raise UnreadableFile(
            f"Line {line}: a day is written 2026-12-07, an amount as a number, and what it was as one of {kinds}; "
            "nothing was entered."
        ) from error


def _number(text: str) -> float:
    return float(text.replace(",", "."))
