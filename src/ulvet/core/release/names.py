"""Names of files that sort, that any file system takes, and that no two files share."""

import re
import unicodedata
from collections.abc import Iterable

__all__ = ["item_name", "part_names", "safe_name", "unclashing"]

_LONGEST = 60
"""Letters of a name that is made of what somebody typed; with folder and ending well under the 255 that file systems
take."""
_LONGEST_PART = 40
"""The same of a part's name, which comes behind the figure's."""
_DEVICES = frozenset({"con", "prn", "aux", "nul", *(f"{port}{n}" for port in ("com", "lpt") for n in range(10))})
"""Names that some systems keep for devices."""


def safe_name(text: str, longest: int = _LONGEST) -> str:
    """A name that any file system takes: lower-case ASCII letters, digits and hyphens.

    >>> safe_name("Ferrywoman, früh / 2"), safe_name("../.."), safe_name("Con")
    ('ferrywoman-fruh-2', 'figure', 'con-figure')
    """
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    name = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:longest].strip("-") or "figure"
    return f"{name}-figure" if name in _DEVICES else name


def item_name(
    figure: str, tall: float, widest: int, hollow: bool, parts: int, mirrored: bool, pockets: bool = True
) -> str:
    """The name of an item ``tall`` print mm: figure, size, form. ``widest`` is how many digits the tallest of the set
    has before the point, so that sizes sort.

    >>> item_name("Ferrywoman", 75.0, 3, True, 5, False), item_name("Imp", 7.25, 2, False, 1, True)
    ('ferrywoman_075mm_hollow_in-parts', 'imp_07-2mm_solid_whole_mirrored')
    """
    whole, tenth = divmod(round(tall * 10), 10)
    size = f"{whole:0{widest}d}" + (f"-{tenth}" if tenth else "") + "mm"
    form = [size, "hollow" if hollow else "solid", "in-parts" if parts > 1 else "whole"]
    form += [word for word, said in (("without-pockets", not pockets), ("mirrored", mirrored)) if said]
    return "_".join([safe_name(figure), *form])


def part_names(called: Iterable[str]) -> tuple[str, ...]:
    """Names of the parts of an item behind its own, each with the number that is sunk into its joints; of a single
    part none.

    >>> part_names(["Hull", "Crest"]), part_names(["figure"])
    (('01-hull', '02-crest'), ('',))
    """
    names = list(called)
    if len(names) == 1:
        return ("",)
    digits = max(2, len(str(len(names))))
    return tuple(f"{number:0{digits}d}-{safe_name(name, _LONGEST_PART)}" for number, name in enumerate(names, 1))


def unclashing(names: Iterable[str]) -> tuple[str, ...]:
    """The names in order, those that were there before (whatever their case) with a number behind.

    >>> unclashing(["imp", "Imp", "imp-2"])
    ('imp', 'Imp-2', 'imp-2-2')
    """
    found: list[str] = []
    taken: set[str] = set()
    for name in names:
        other, number = name, 1
        while other.lower() in taken:
            number += 1
            other = f"{name}-{number}"
        taken.add(other.lower())
        found.append(other)
    return tuple(found)
