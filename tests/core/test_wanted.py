"""One more of a part, or one less, in what is to be printed."""

import pytest

from ulvet.core.plates.wanted import WantedPart, WantedPlan, one_less, one_more

CREST = WantedPart(figure=1, edition="e1", part="crest")
PARTS = ("body", "crest")


def lines(plan):
    return [(line.figure, line.edition, line.part, line.count) for line in plan.wanted]


def plan(*wanted):
    return WantedPlan(wanted=tuple(WantedPart(figure=f, edition=e, part=p, count=n) for f, e, p, n in wanted))


def test_one_more_goes_into_its_own_line_or_begins_one():
    assert lines(one_more(plan((1, "e1", "crest", 2)), CREST, "e1", PARTS)) == [(1, "e1", "crest", 3)]
    assert lines(one_more(plan((1, "e1", "", 2)), CREST, "e1", PARTS)) == [(1, "e1", "", 2), (1, "e1", "crest", 1)]
    # Of a figure in one piece the whole is wanted once more; a line that names no edition means the first.
    assert lines(one_more(plan((1, "", "", 2)), CREST, "e1", ("crest",))) == [(1, "", "", 3)]
    assert lines(one_more(plan((1, "", "", 2)), CREST, "e0", ("crest",))) == [(1, "", "", 2), (1, "e1", "crest", 1)]
    assert len(one_more(plan((2, "e1", "crest", 2)), CREST, "e1", PARTS).wanted) == 2


def test_one_less_leaves_the_other_parts_wanted():
    assert lines(one_less(plan((1, "e1", "crest", 2)), CREST, "e1", PARTS)) == [(1, "e1", "crest", 1)]
    assert lines(one_less(plan((2, "", "", 1), (1, "e1", "crest", 1)), CREST, "e1", PARTS)) == [(2, "", "", 1)]
    assert lines(one_less(plan((1, "e1", "", 3)), CREST, "e1", PARTS)) == [(1, "e1", "", 2), (1, "e1", "body", 1)]
    assert lines(one_less(plan((1, "e1", "", 1)), CREST, "e1", PARTS)) == [(1, "e1", "body", 1)]
    assert lines(one_less(plan((1, "e1", "", 1)), CREST, "e1", ("crest",))) == []
    assert one_less(plan((1, "e2", "", 1)), CREST, "e1", PARTS) is None


@pytest.mark.parametrize("start", [(1, "e1", "", 2), (1, "", "crest", 1), (1, "e1", "body", 4)])
def test_one_more_and_one_less_want_as_many_copies_of_every_part_as_before(start):
    def copies(of):
        return {part: sum(line.count for line in of.wanted if line.part in ("", part)) for part in PARTS}

    before = plan(start)
    after = one_less(one_more(before, CREST, "e1", PARTS), CREST, "e1", PARTS)
    assert copies(after) == copies(before)
