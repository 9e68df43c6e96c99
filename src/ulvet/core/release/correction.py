"""What an issue has otherwise than the one before it, and who needs it."""

from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from ulvet.core.release.manifest import ItemEntry

__all__ = ["Correction", "ItemChange", "correction_of"]


class _Value(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class ItemChange(_Value):
    """What became of an item: parts that are other files now, new ones and those that are gone, by what they are
    called, and whether what is said of it changed."""

    item: str
    edition_name: str
    state: str
    """``new``, ``gone``, ``changed``, ``words`` or ``same``."""
    changed: tuple[str, ...] = ()
    added: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()

    @property
    def says(self) -> str:
        """Who needs it, in one sentence."""
        who = f"Whoever prints {self.item}"
        if self.state == "new":
            return f"{self.item} is new."
        if self.state == "gone":
            return f"{self.item} goes out no more: keep what you have."
        if self.state == "words":
            return f"{who} needs no new file: only what is said of it changed."
        if self.state == "same":
            return f"{who} needs nothing: it is the same to the byte."
        said = []
        if self.changed:
            said.append(f"print {_listed(self.changed)} again")
        if self.added:
            said.append(f"add {_listed(self.added)}")
        if self.gone:
            said.append(f"leave {_listed(self.gone)} out")
        return f"{who} needs it: {', '.join(said)}."


class Correction(_Value):
    """An issue against the one before."""

    items: tuple[ItemChange, ...]

    @property
    def says(self) -> tuple[str, ...]:
        """Who needs what, a sentence an item, those who need most first."""
        order = ("changed", "new", "gone", "words", "same")
        ranked = sorted(self.items, key=lambda one: order.index(one.state))
        return tuple(one.says for one in ranked)

    @property
    def needed(self) -> bool:
        """Whether anybody needs a new file."""
        return any(one.state in ("changed", "new", "gone") for one in self.items)


def correction_of(before: Sequence[ItemEntry], after: Sequence[ItemEntry]) -> Correction:
    """What items have otherwise than those of the issue before. A part is told by its lineage and by the hash of what
    it is made of: one that only has another name, or another number, is the same."""
    then = {item.key: item for item in before}
    now = {item.key: item for item in after}
    changes = [_change(then.get(key), item) for key, item in now.items()]
    changes += [_named(item, "gone") for key, item in then.items() if key not in now]
    return Correction(items=tuple(changes))


def _change(before: ItemEntry | None, after: ItemEntry) -> ItemChange:
    if before is None:
        return _named(after, "new")
    then = {part.part: part for part in before.parts}
    now = {part.part: part for part in after.parts}
    changed = tuple(
        one.called for name, one in now.items() if name in then and then[name].form_sha256 != one.form_sha256
    )
    added = tuple(one.called for name, one in now.items() if name not in then)
    gone = tuple(one.called for name, one in then.items() if name not in now)
    if changed or added or gone:
        return _named(after, "changed", changed, added, gone)
    return _named(after, "same" if _said(before) == _said(after) else "words")


def _said(item: ItemEntry) -> object:
    told = {"open", "proofed_says", "setting", "printer", "material"}
    return item.model_dump(include=told)


def _named(
    item: ItemEntry,
    state: str,
    changed: tuple[str, ...] = (),
    added: tuple[str, ...] = (),
    gone: tuple[str, ...] = (),
) -> ItemChange:
    return ItemChange(
        item=item.name, edition_name=item.edition_name, state=state, changed=changed,
        added=added, gone=gone,
    )  # fmt: skip


def _listed(names: Sequence[str]) -> str:
    """Names in a sentence.

    >>> _listed(["crest"]), _listed(["crest", "pole", "hull"])
    ('crest', 'crest, pole and hull')
    """
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
