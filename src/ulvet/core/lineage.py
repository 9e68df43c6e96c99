"""Names of parts: each says what it was cut from, so that it survives an edit of the cut."""

from collections.abc import Collection

__all__ = ["SIDES", "is_piece_of", "names_meant", "own_or_inherited", "part_in_words", "steps_of_lineage"]

SIDES = ("upper", "lower", "left", "right", "front", "back")
"""What the sides of a cut are called that nobody named."""


def part_in_words(name: str) -> str:
    """The name of a part as it is read: of one that was cut off, the sides it was cut from, and what else it is.

    >>> part_in_words("figure.8-upper.10-left-2"), part_in_words("figure.8-lower.9-pin-1"), part_in_words("Long pole")
    ('upper left figure 2', 'lower figure, pin 1', 'Long pole')
    """
    whole, *pieces = name.split(".")
    sides, others = list[str](), list[str]()
    for piece in pieces:
        _, _, word = piece.partition("-")
        first, _, rest = word.partition("-")
        if first in SIDES:
            sides.append(first)
            whole += f" {rest}" if rest else ""
        elif word:
            others.append(word.replace("-", " "))
    return ", ".join([" ".join([*sides, whole]), *others])


def is_piece_of(name: str, whole: str) -> bool:
    """Whether a part was cut from another, or made with it."""
    return name.startswith(f"{whole}.")


def names_meant(scope: str | None, there: Collection[str]) -> frozenset[str]:
    """Which of the parts that are there a scope means: the part itself, or all that it was cut into."""
    if scope is None:
        return frozenset(there)
    if scope in there:
        return frozenset([scope])
    return frozenset(name for name in there if is_piece_of(name, scope))


def own_or_inherited(name: str, held: Collection[str]) -> str | None:
    """By which of the names something is held for a part: its own, or else that of the nearest it was cut from."""
    while name not in held:
        if "." not in name:
            return None
        name = name.rsplit(".", 1)[0]
    return name


def steps_of_lineage(name: str) -> frozenset[int]:
    """Ids of the steps that made a part.

    >>> sorted(steps_of_lineage("figure.8-upper.10-left"))
    [8, 10]
    """
    ids = (piece.split("-", 1)[0] for piece in name.split(".")[1:])
    return frozenset(int(one) for one in ids if one.isdigit())
