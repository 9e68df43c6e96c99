"""What checks said of a figure, kept by what each read of the bench, so that a changed value is judged only where it is
read."""

import pickle
from collections.abc import Callable
from typing import Any

from ulvet.core.findings.finding import Finding, Unseen
from ulvet.core.recipe.runner import Memory, measured_key

__all__ = ["Judgements"]

Outcome = list[Finding | Unseen]


class Judgements:
    """The judgements of one figure as it is made and sized, whatever its bench. One entry holds all of them: what
    a check said last, and what it had read."""

    def __init__(self, memory: Memory, *made_of: object) -> None:
        self._memory, self._key = memory, measured_key("judgements", *made_of)
        known = memory.recall_measured(self._key)
        self._kept: dict[str, tuple[str, Outcome]] = pickle.loads(known) if known else {}
        self._changed = False

    def of(self, who: str, read: Any, judge: Callable[[], Outcome]) -> Outcome:
        """What was said by a check and part (``who``), judged anew where it has ``read`` anything else."""
        reads = measured_key(who, read)
        held = self._kept.get(who)
        if held is None or held[0] != reads:
            held = self._kept[who] = reads, judge()
            self._changed = True
        return held[1]

    def keep(self) -> None:
        """Keep what was judged anew."""
        if self._changed:
            self._memory.keep_measured(self._key, pickle.dumps(self._kept, pickle.HIGHEST_PROTOCOL))
            self._changed = False
