"""Coupons read from a printer: what is told is what the printer hides, and nothing is told of what cannot be."""

from urllib.parse import parse_qs, urlsplit

import httpx
import numpy as np
import pytest

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.proof.coupon_told import fits_told, lengths_told
from ulvet.core.proof.coupons import coupon_of
from ulvet.core.proof.learning import learnt_of
from ulvet.standins.truths import caliper, fit_of, truths_of
from ulvet.work import coupon_link
from ulvet.work.printer_link import PrintEvent, PrintNow
from ulvet.work.refusals import Refused

SETUP = DEFAULT_BENCH.setup(None)


@pytest.fixture
def printer(monkeypatch):
    """A printer with the truths of a seed, which answers at once; what it says of a print can be changed."""
    now = {"protocol": "p", "print": 1, "name": "", "state": "done", "layer": 9, "layers": 9, "seconds": 1, "ml": 1,
           "events": []}  # fmt: skip
    hidden = {"truths": truths_of(5), "stands": lambda kind, size: True, "now": now}

    def place(text):
        return tuple(float(value) for value in text.split(","))

    def answer(address):
        parts = urlsplit(address)
        asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
        truths = hidden["truths"]
        if parts.path.endswith("/fit"):
            said = {"fit": fit_of(float(asked["peg"]), float(asked["hole"]), truths, 5)}
        elif parts.path.endswith("/length"):
            said = {"mm": caliper(place(asked["begin"]), place(asked["end"]), asked["over"], truths, 5)}
        else:
            at = place(asked["at"])
            features = coupon_of("walls", SETUP).features
            one = min(features, key=lambda one: np.hypot(one.at[0] - at[0], one.at[1] - at[1]))
            said = {"there": hidden["stands"](one.kind, one.size)}
        return httpx.Response(200, json=said)

    monkeypatch.setattr(coupon_link, "answer_of", answer)
    monkeypatch.setattr(coupon_link, "look_at", lambda address: PrintNow.model_validate(hidden["now"]))
    return hidden


def read(kind):
    return coupon_link.coupon_read(SETUP, kind, "http://127.0.0.1:1/prints/1")


@pytest.mark.parametrize("seed", range(6))
def test_a_ladder_tells_the_gaps_within_its_step_and_the_noise(printer, seed):
    truths = printer["truths"] = truths_of(seed)
    told = read("fit")
    for value, air in ((told.press, 0.0), (told.slide, truths.slides), (told.free, truths.turns)):
        assert -0.015 < value - (truths.gap + air) < 0.035
    assert fits_told(told, SETUP).slide == told.slide
    assert told.press <= told.slide <= told.free


def test_a_gap_that_no_hole_leaves_is_not_told(printer):
    printer["truths"] = printer["truths"].model_copy(update={"turns": 5.0})
    told = read("fit")
    assert told.slide is not None and told.free is None


def test_a_block_tells_shrink_and_edges_that_grow(printer):
    learnt = {one.path: one for one in learnt_of(SETUP, (), lengths_told(read("measure"), SETUP))}
    truths = printer["truths"]
    assert learnt["edge_growth"].low <= truths.growth <= learnt["edge_growth"].high
    assert learnt["shrink.across"].low <= truths.shrink[0] <= learnt["shrink.across"].high


def test_the_thinnest_that_stands_with_all_thicker_ones_is_told(printer):
    printer["stands"] = lambda kind, size: size > (0.45 if kind == "wall" else 0.65)
    told = read("walls")
    assert (told.wall, told.pin) == (0.5, 0.7)
    # One of the thick ones broke when it was handled: what is thinner does not count.
    broken = next(one for one in coupon_of("walls", SETUP).features if one.kind == "wall" and one.size == 1.0)
    event = PrintEvent(kind="broke", layer=9, at=(*broken.at, 5.0), after=True)
    printer["now"] = {**printer["now"], "events": [event.model_dump()]}
    assert read("walls").wall == 1.1


def test_what_is_not_done_or_came_out_as_nothing_is_refused(printer):
    printer["stands"] = lambda kind, size: False
    with pytest.raises(Refused, match="Nothing on the coupon came out"):
        read("walls")
    printer["now"] = {**printer["now"], "state": "printing"}
    with pytest.raises(Refused, match="not printed yet"):
        read("fit")
