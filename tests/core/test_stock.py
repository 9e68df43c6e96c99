"""Stock: the ledger's sum is what is there, what runs short is told with its date, and CSV comes back as it went."""

import csv
import io
from datetime import date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.stock.good import goods_of, key_of_material, key_of_paint, material_amount
from ulvet.core.stock.ledger import Entry, EntryKind, balances, standing
from ulvet.core.stock.ledger_csv import ledger_csv, read_ledger_csv
from ulvet.core.stock.shortages import Need, shortages

GOODS = goods_of(DEFAULT_BENCH)
RESIN, FILAMENT = key_of_material("tough-grey"), "material:matt-filament"
DAY = date(2026, 12, 1)


def entry(amount, kind=EntryKind.DELIVERED, good=RESIN, day=DAY, says=""):
    return Entry(good=good, day=day, kind=kind, amount=amount, says=says)


def test_the_sum_is_what_is_there_and_what_nobody_counted_is_not_known():
    lines = [entry(500.0), entry(-120.0, EntryKind.USED), entry(-30.0, EntryKind.COUNTED), entry(-5.0, EntryKind.USED,
             key_of_paint("bone"))]  # fmt: skip
    assert balances(lines) == {RESIN: 350.0}
    told = {one.good.key: one for one in standing(GOODS, lines)}
    assert told[RESIN].there == 350.0
    assert told[RESIN].counted == DAY
    assert told[RESIN].worth == pytest.approx(350 * 42.0 / 1000)
    assert (told[key_of_paint("bone")].there, told[key_of_paint("bone")].worth) == (None, 0.0)
    # Sums that only rounding keeps from nothing are nothing.
    assert balances([entry(0.1), entry(0.2), entry(-0.3, EntryKind.USED)]) == {RESIN: 0.0}


def test_filament_is_kept_by_weight_and_resin_by_volume():
    matt = next(one for one in DEFAULT_BENCH.materials if one.id == "matt-filament")
    units = {good.key: good.unit for good in GOODS}
    assert (units[RESIN], units[FILAMENT], units["bought:magnet-3x2"]) == ("ml", "g", "pieces")
    assert material_amount(DEFAULT_BENCH, "matt-filament", 10.0) == pytest.approx(10 * matt.density)
    assert material_amount(DEFAULT_BENCH, "tough-grey", 10.0) == 10.0
    price = next(good.price for good in GOODS if good.key == FILAMENT)
    assert price * 1000 * matt.density == pytest.approx(matt.price_per_litre)


def test_a_good_is_short_at_the_first_need_that_its_sum_does_not_meet():
    monday, friday = datetime(2026, 12, 7, 9), datetime(2026, 12, 11, 9)
    needs = [
        Need(RESIN, 60.0, friday, "plate 2"),
        Need(RESIN, 50.0, monday, "plate 1"),
        Need(FILAMENT, 5.0, monday, "plate 3"),
        Need(key_of_paint("bone"), 1.0, None, "an imp"),
    ]
    short = shortages(needs, GOODS, {RESIN: 100.0, FILAMENT: 5.0})
    assert [(one.good.key, one.at, one.says, one.wanted) for one in short] == [
        (RESIN, friday, "plate 2", 110.0),
        (key_of_paint("bone"), None, "an imp", 1.0),
    ]
    assert short[1].there is None
    assert shortages(needs, GOODS, {RESIN: 110.0, FILAMENT: 5.0, key_of_paint("bone"): 1.0}) == ()
    assert shortages(needs, GOODS, {RESIN: 0.0, FILAMENT: 9})[0].at == monday


ENTRIES = st.builds(
    Entry,
    good=st.sampled_from([good.key for good in GOODS]),
    day=st.dates(date(2000, 1, 1), date(2099, 1, 1)),
    kind=st.sampled_from(EntryKind),
    amount=st.floats(-1e5, 1e5).map(lambda amount: round(amount, 4)),
    says=st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=40).map(str.strip),
)


@given(st.lists(ENTRIES, max_size=12))
def test_a_ledger_comes_back_as_it_went_and_only_once(entries):
    text = ledger_csv(entries, GOODS).encode()
    assert read_ledger_csv(text, GOODS, []) == entries
    assert read_ledger_csv(text, GOODS, entries) == []
    notes = [row["note"] for row in csv.DictReader(io.StringIO(text.decode(), newline=""))]
    assert not any(note.startswith(("=", "+", "-", "@")) for note in notes)


def test_a_count_says_what_is_there_and_a_table_from_elsewhere_is_read():
    text = "day;good;what;change;there;note\n2026-12-01;Tough grey resin;delivered;1000;;\n"
    text += "2026-12-02;material:tough-grey;counted;;870,5;by weight\n"
    got = read_ledger_csv(text.encode("utf-8-sig"), GOODS, [entry(10.0)])
    assert [one.amount for one in got] == pytest.approx([1000.0, 870.5 - 1010.0])
    assert balances([entry(10.0), *got])[RESIN] == pytest.approx(870.5)


def test_a_count_of_what_was_used_before_anybody_counted_is_what_is_there():
    text = b"day,good,what,there\n2026-12-02,Bone,counted,12\n"
    used = entry(-3.0, EntryKind.USED, key_of_paint("bone"))
    (counted,) = read_ledger_csv(text, GOODS, [used])
    assert counted.amount == 15.0
    assert balances([used, counted]) == {key_of_paint("bone"): 12.0}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (b"\xff\xfe\x00", "no text in UTF-8"),
        (b"day,good\n", "column what"),
        (b"day,good,what,change\n2026-12-01,Moonlight,delivered,5\n", "Line 2: nothing on the bench is called"),
        (b"day,good,what,change\nsoon,Bone,delivered,5\n", "a day is written"),
        (b"day,good,what,change\n2026-12-01,Bone,lost,5\n", "one of delivered"),
        (b"day,good,what,change\n2026-12-01,Bone,delivered,\n", "an amount as a number"),
        (b"day,good,what,change\n2026-12-01,Bone,delivered,1e99\n", "less than or equal to"),
        (b"day,good,what,change\n2026-12-01,Bone,delivered,nan\n", "Line 2"),
    ],
)
def test_a_table_that_cannot_be_read_says_which_line(text, says):
    with pytest.raises(UnreadableFile, match="nothing was entered") as refusal:
        read_ledger_csv(text, GOODS, [])
    assert says in str(refusal.value)
