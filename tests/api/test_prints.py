"""Proofs on a printer over the API: sent, followed, entered once, and nothing lost when the printer is."""

import time

import numpy as np
import pytest

from tests.api.conftest import brought, built
from tests.devices import running_printer
from tests.shapes import box, concatenated
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.formats.stl import stl_bytes
from ulvet.standins.truths import truths_of

SEED = 2
# A hook whose tip hangs down begins in the air.
HOOK = concatenated(
    box(14, 10, 4), box(4, 4, 20, at=(5, 3, 3)), box(12, 4, 3, at=(7, 3, 20)), box(3, 3, 6, at=(15, 3.5, 15))
)


@pytest.fixture
def printer():
    with running_printer(SEED) as address:
        yield address


@pytest.fixture
def hook(client, tmp_path):
    path = tmp_path / "hook.stl"
    path.write_bytes(stl_bytes(HOOK))
    number = brought(client, path)
    built(client, number)
    return number


def begun(client, figure, count=1):
    (one,) = client.post("/proofs", json={"parts": [{"figure": figure, "count": count}]}).json()
    return one["number"]


def followed(client, proof):
    for _ in range(600):
        answer = client.put(f"/proofs/{proof}/print")
        assert answer.status_code == 200, answer.text
        if answer.json()["state"] not in ("waiting", "printing"):
            return answer.json()
        time.sleep(0.1)
    raise AssertionError("the print did not end")


def test_what_a_printer_tells_is_entered_once_and_pinned_where_it_happened(client, hook, printer):
    proof = begun(client, hook)
    assert client.post(f"/proofs/{proof}/print", json={"printer": printer}).status_code == 200
    assert followed(client, proof)["state"] == "done"
    came = client.get(f"/proofs/{proof}").json()
    said = came["proof"]["came"]
    assert said["seconds"] == pytest.approx(came["proof"]["told"]["seconds"] * truths_of(SEED).seconds_factor, rel=0.01)
    assert said["copies"] == [{"part": 0, "outcome": "failed", "lies": None}]
    island = next(pin for pin in said["pins"] if pin["cause"] == "island")
    # Where the tip of the hook begins, in the figure's own mm, which stands in the middle of its foot.
    low, high = np.array(HOOK.vertices).min(axis=0), np.array(HOOK.vertices).max(axis=0)
    page = client.get(f"/figures/{hook}").json()
    shift = np.array(page["build"]["parts"][0]["facts"]["low_mm"]) - low
    assert island["at"]["point"] == pytest.approx(np.array([16.5, 5.0, 15.0]) + shift, abs=0.4)
    assert high[2] == 23
    assert came["foretold"][str(island["id"])]
    followed(client, proof)
    assert client.get(f"/proofs/{proof}").json()["revision"] == came["revision"]
    assert client.get(f"/proofs/{proof}/print/picture.png").content[:4] == b"\x89PNG"
    ends = {"begin": {"point": (low + shift).tolist()}, "end": {"point": (low + shift + [14, 0, 0]).tolist()}}
    read = client.post(f"/proofs/{proof}/print/lengths", json={"part": 0, **ends}).json()["mm"]
    assert read == pytest.approx(14, abs=0.4)


def test_pins_of_the_printer_get_numbers_that_are_free(client, hook, printer):
    proof = begun(client, hook)
    now = client.get(f"/proofs/{proof}").json()
    pin = {"id": 2, "part": 0, "at": {"point": [0, 0, 0]}, "when": "carried", "cause": "hands"}
    whole = {**now["proof"]["came"], "pins": [pin]}
    client.put(f"/proofs/{proof}", json={"came": whole, "says": "x"}, headers={"If-Match": str(now["revision"])})
    client.post(f"/proofs/{proof}/print", json={"printer": printer})
    followed(client, proof)
    ids = [one["id"] for one in client.get(f"/proofs/{proof}").json()["proof"]["came"]["pins"]]
    assert ids[0] == 2 and len(set(ids)) == len(ids) >= 2


def test_sent_twice_it_is_printed_once(client, hook, printer):
    proof = begun(client, hook)
    client.post(f"/proofs/{proof}/print", json={"printer": printer})
    again = client.post(f"/proofs/{proof}/print", json={"printer": printer})
    assert "on a printer already" in again.json()["detail"]


def test_a_printer_that_vanishes_loses_nothing(client, hook):
    proof = begun(client, hook)
    with running_printer(speed=1e-3) as address:
        client.post(f"/proofs/{proof}/print", json={"printer": address})
        assert client.put(f"/proofs/{proof}/print").json()["state"] in ("waiting", "printing")
    gone = client.put(f"/proofs/{proof}/print")
    assert "does not answer" in gone.json()["detail"]
    now = client.get(f"/proofs/{proof}").json()
    assert now["proof"]["came"]["printer"].startswith(address)
    assert now["proof"]["came"]["copies"] == [{"part": 0, "outcome": None, "lies": None}]
    # By hand it can still be entered.
    whole = {**now["proof"]["came"], "copies": [{"part": 0, "outcome": "failed"}]}
    entered = client.put(
        f"/proofs/{proof}", json={"came": whole, "says": "by hand"}, headers={"If-Match": str(now["revision"])}
    )
    assert entered.status_code == 200


def test_a_print_that_is_stopped_is_entered_as_failed(client, hook):
    proof = begun(client, hook, count=2)
    with running_printer(speed=1.0) as address:
        client.post(f"/proofs/{proof}/print", json={"printer": address})
        assert client.delete(f"/proofs/{proof}/print").json()["state"] == "stopped"
        followed(client, proof)
        now = client.get(f"/proofs/{proof}").json()
        came = now["proof"]["came"]
        assert [copy["outcome"] for copy in came["copies"]] == ["failed", "failed"]
        # It teaches nothing of hours, and is entered once.
        assert (came["seconds"], came["ml"]) == (None, None)
        followed(client, proof)
    assert client.get(f"/proofs/{proof}").json()["revision"] == now["revision"]


def test_only_a_printer_on_this_machine_is_asked(client, hook):
    proof = begun(client, hook)
    for address in ("http://example.org:8477", "https://127.0.0.1:8477", "file:///etc/passwd", "http://127.0.0.1:1"):
        refused = client.post(f"/proofs/{proof}/print", json={"printer": address})
        assert refused.status_code in (409, 422)
        assert "printer" in refused.json()["detail"]
        assert client.get(f"/proofs/{proof}").json()["proof"]["came"]["printer"] == ""


def test_what_answers_and_is_no_printer_is_said_to_be_none(client, hook, served):
    proof = begun(client, hook)
    assert client.post(f"/proofs/{proof}/print", json={"printer": served}).status_code in (409, 422)
    assert client.put(f"/proofs/{proof}/print").status_code in (409, 422)


def read_coupon(client, printer, kind):
    """A coupon of the first setting, printed and read; the setting's id and what was read."""
    setting = DEFAULT_BENCH.setup(None).setting.id
    sent = client.post(f"/settings/{setting}/coupons/{kind}/print", json={"printer": printer})
    assert sent.status_code == 200, sent.text
    for _ in range(900):
        told = client.put(f"/settings/{setting}/coupons/{kind}/print", json={"address": sent.json()["address"]})
        assert told.status_code == 200, told.text
        if told.json()["state"] not in ("waiting", "printing"):
            return setting, told.json()["read"]
        time.sleep(0.1)
    raise AssertionError("the print did not end")


@pytest.mark.deep
def test_a_ladder_printed_there_teaches_the_gap_that_the_printer_hides(client, printer):
    truths = truths_of(SEED)
    setting, read = read_coupon(client, printer, "fit")
    for name, least in (("press", 0.0), ("slide", truths.slides), ("free", truths.turns)):
        assert -0.02 <= read[name] - (truths.gap + least) <= 0.04, name
    learnt = client.put(f"/settings/{setting}/coupons", json=[read]).json()["learnt"]
    told = {one["path"]: one for one in learnt}
    assert told["fits.slide"]["low"] <= truths.gap + truths.slides <= told["fits.slide"]["high"]


@pytest.mark.deep
def test_a_block_printed_there_teaches_shrink_and_the_growth_of_edges(client, printer):
    setting, read = read_coupon(client, printer, "measure")
    learnt = client.put(f"/settings/{setting}/coupons", json=[read]).json()["learnt"]
    told = {one["path"]: one for one in learnt}
    assert told["edge_growth"]["value"] == pytest.approx(truths_of(SEED).growth, abs=0.02)
    for axis, real in zip(("across", "deep", "up"), truths_of(SEED).shrink, strict=True):
        assert told[f"shrink.{axis}"]["value"] == pytest.approx(real, abs=0.003)


def test_a_coupon_is_not_read_where_no_printer_is_or_before_it_is_done(client, printer):
    setting = DEFAULT_BENCH.setup(None).setting.id
    away = client.post(f"/settings/{setting}/coupons/fit/print", json={"printer": "http://127.0.0.1:9"})
    assert away.status_code == 422 and "does not answer" in away.json()["detail"]
    outside = client.post(f"/settings/{setting}/coupons/fit/print", json={"printer": "http://example.org"})
    assert outside.status_code == 422 and "nothing was sent" in outside.json()["detail"]
    gone = client.post("/settings/none/coupons/fit/print", json={"printer": printer})
    assert gone.status_code == 422 and "not on the bench" in gone.json()["detail"]
    unknown = client.put(f"/settings/{setting}/coupons/fit/print", json={"address": f"{printer}/prints/99"})
    assert unknown.status_code == 422 and "knows nothing" in unknown.json()["detail"]
