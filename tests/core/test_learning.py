"""What proofs teach, against printers whose truths are known."""

import numpy as np
import pytest

from tests.proofs import came, length, printed, proof
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.proof.learning import FitsTold, learnt_of
from ulvet.core.proof.lengths_before import lengths_before, lengths_to_take
from ulvet.core.proof.proof import Cause, LimbTold, Outcome, Pin, When
from ulvet.core.proof.robust import robust_fit, share_between
from ulvet.core.recipe.anchors import Anchor

SETUP = DEFAULT_BENCH.setup(None)
NOISE_MM, NOISE_HOURS, NOISE_ML = 0.03, 0.03, 0.04
PLATES, LENGTHS, LADDERS = 14, 8, 6


def hidden_printer(seed):
    """The truths of a printer, and what its proofs and ladders tell of them."""
    dice = np.random.default_rng(seed)
    truth = {
        "times.factor": dice.uniform(0.9, 1.3),
        "material_factor": dice.uniform(0.95, 1.2),
        **{f"shrink.{axis}": dice.uniform(0, 0.01) for axis in ("across", "deep", "up")},
        "edge_growth": dice.uniform(0.0, 0.08),
        "fits.press": dice.uniform(0.03, 0.1),
        "fails": dice.uniform(0.05, 0.3),
    }
    proofs = []
    for number in range(1, PLATES + 1):
        lengths = []
        for _ in range(LENGTHS):
            drawn, way = dice.uniform(8, 70), np.eye(3)[dice.integers(3)]
            over = dice.choice(["outside", "inside"])
            shrink = sum(truth[f"shrink.{a}"] * w for a, w in zip(("across", "deep", "up"), way, strict=True))
            grown = 2 * truth["edge_growth"] * (1 if over == "outside" else -1) * (1 - way[2])
            measured = drawn * (1 - shrink) + grown + dice.normal(0, NOISE_MM)
            lengths.append(length(drawn, measured, way, over))
        fails = dice.random() < truth["fails"]
        proofs.append((number, proof(
            SETUP, told_s=10_000, told_ml=20,
            came=came(
                seconds=10_000 * truth["times.factor"] * np.exp(dice.normal(0, NOISE_HOURS)),
                ml=20 * truth["material_factor"] * np.exp(dice.normal(0, NOISE_ML)),
                copies=[Outcome.FAILED if fails else Outcome.SOUND], lengths=lengths,
            ),
        )))  # fmt: skip
    steps = np.arange(0.02, 0.25, 0.02)
    ladders = [
        FitsTold(press=float(steps[steps >= truth["fits.press"] + dice.normal(0, 0.01)][0]), step=0.02)
        for _ in range(LADDERS)
    ]
    return truth, proofs, ladders


def test_stated_ranges_hold_nine_times_in_ten_and_are_no_wider_than_the_noise_leaves():
    held = count = 0
    for seed in range(10):
        truth, proofs, ladders = hidden_printer(seed)
        told = {one.path: one for one in learnt_of(SETUP, proofs, fits=ladders)}
        for path, value in truth.items():
            one = told[path]
            count += 1
            held += one.low <= value <= one.high
        n = PLATES
        assert told["times.factor"].high - told["times.factor"].low < 2 * 2 * 1.77 * NOISE_HOURS * 1.3 / np.sqrt(n)
        # About a third of the lengths runs along each axis.
        along = PLATES * LENGTHS / 3
        assert told["shrink.up"].high - told["shrink.up"].low < 2 * 2 * 1.65 * NOISE_MM / (40 * np.sqrt(along)) * 1.5
    assert count == 80
    assert held >= 68


def test_a_reading_in_inches_is_left_out_and_named():
    _, proofs, _ = hidden_printer(3)
    number, first = proofs[0]
    wrong = length(50.8, 2.0, (1, 0, 0), "outside", name="pole")
    spoilt = first.model_copy(update={"came": first.came.model_copy(update={"lengths": (*first.came.lengths, wrong)})})
    clean = {one.path: one for one in learnt_of(SETUP, proofs)}
    told = {one.path: one for one in learnt_of(SETUP, [(number, spoilt), *proofs[1:]])}
    assert told["shrink.across"].outliers == ("pole, 2.0 for 50.8 mm",)
    assert told["shrink.across"].value == pytest.approx(clean["shrink.across"].value, abs=1e-4)


def test_what_was_told_with_a_learnt_factor_does_not_lower_it_again():
    told = [(1, proof(SETUP, told_s=12_000, seconds_factor=1.2, came=came(seconds=12_000)))]
    (hours,) = [one for one in learnt_of(SETUP, told) if one.path == "times.factor"]
    assert hours.value == pytest.approx(1.2)
    assert (hours.low, hours.high) == (None, None)  # one reading has no spread


def test_lengths_along_one_axis_tell_nothing_of_the_others():
    lengths = [length(d, d * 0.99, (0, 0, 1), "outside") for d in (20, 30, 40)]
    told = learnt_of(SETUP, [(1, proof(SETUP, came=came(lengths=lengths)))])
    assert [one.path for one in told if one.path.startswith(("shrink", "edge"))] == ["shrink.up"]


def test_few_plates_leave_the_bench_its_rate_of_failure():
    few = [(n, proof(SETUP, came=came(copies=[Outcome.FAILED]))) for n in range(1, 4)]
    (rate,) = [one for one in learnt_of(SETUP, few) if one.title == "plates that fail"]
    assert rate.path == ""
    assert rate.value == 1.0
    assert 0.3 < rate.low < rate.high == 1.0


def test_the_plates_hold_is_told_as_at_least_and_at_most():
    off = Pin(id=1, part=0, at=Anchor(point=(0, 0, 0)), when=When.ON_PLATE, cause=Cause.DID_NOT_STICK)
    proofs = [
        (1, proof(SETUP, peak=8.0, came=came(copies=[Outcome.SOUND]))),
        (2, proof(SETUP, peak=12.0, came=came(copies=[Outcome.SOUND]))),
        (3, proof(SETUP, peak=20.0, came=came(copies=[Outcome.FAILED], pins=[off]))),
    ]
    told = [(one.kind, one.value, one.proofs) for one in learnt_of(SETUP, proofs) if one.unit == "N"]
    assert told == [("at least", 12.0, (2,)), ("at most", 20.0, (3,))]


def test_another_settings_proofs_teach_nothing():
    other = proof(SETUP, came=came(seconds=5_000)).model_copy(update={"setting": "another"})
    assert learnt_of(SETUP, [(1, other)]) == ()


def test_a_fit_that_readings_do_not_determine_is_refused():
    with pytest.raises(ValueError, match="tell"):
        robust_fit(np.ones((3, 2)), np.zeros(3), 0.1)


@pytest.mark.parametrize(("failed", "of"), [(0, 9), (1, 9), (9, 9)])
def test_a_share_lies_in_its_range(failed, of):
    low, high = share_between(failed, of)
    assert 0 <= low <= failed / of <= high <= 1
    assert high - low < 0.4


def limb(force, at=(0, 0, 20), part=0, push=1.0):
    return LimbTold(part=part, point=at, force_N=force, push_N=push)


def broken(at=(0, 0, 20), part=0, when=When.SUPPORTS_OFF, cause=Cause.THIN_PART, number=1):
    return Pin(id=number, part=part, at=Anchor(point=at), when=when, cause=cause)


def strengths(*proofs):
    told = learnt_of(SETUP, list(enumerate(proofs, 1)))
    return [(one.kind, pytest.approx(one.value), one.proofs) for one in told if one.title.startswith("strength")]


def test_limbs_that_held_and_broke_bound_the_strength():
    # Told to break at 4 N and pushed by 1, it is at least a quarter as strong as told; one told at 0.5 that broke, at
    # most twice.
    held = proof(SETUP, limbs=[limb(4.0), limb(2.0)], came=came(copies=[Outcome.SOUND]))
    broke = proof(SETUP, limbs=[limb(0.5)], came=came(copies=[Outcome.FAILED], pins=[broken()]))
    stronger = proof(SETUP, limbs=[limb(0.8)], came=came(copies=[Outcome.FAILED], pins=[broken()]))
    assert strengths(held, broke, stronger) == [("at least", 0.5, (1,)), ("at most", 1.25, (3,))]


def test_limbs_that_nobody_pushed_tell_nothing():
    torn = broken(when=When.ON_PLATE)
    assert strengths(proof(SETUP, limbs=[limb(0.5)], came=came(copies=[Outcome.FAILED], pins=[torn]))) == []
    # Another limb of the same part broke; of what failed nobody knows how its others would have fared.
    away = broken(at=(0, 0, -20))
    assert strengths(proof(SETUP, limbs=[limb(0.5)], came=came(copies=[Outcome.FAILED], pins=[away]))) == []
    assert strengths(proof(SETUP, limbs=[limb(0.5)])) == []
    # A copy of another part that failed says nothing of this one.
    two = [printed("body"), printed("crest", mesh="b" * 64)]
    both = came(copies=[Outcome.SOUND], pins=[broken(part=1)])
    assert strengths(proof(SETUP, two, limbs=[limb(2.0), limb(4.0, part=1)], came=both)) == [
        ("at least", 0.5, (1,)), ("at most", 0.25, (1,)),
    ]  # fmt: skip


def test_lengths_are_held_beside_those_of_the_last_proof_that_has_them():
    def measured(*lengths, parts=()):
        return proof(SETUP, parts, came=came(copies=[Outcome.SOUND], lengths=lengths))

    first = measured(length(44, 43.8, (0, 0, 1), name="hem to hood"), length(10, 9.9, (1, 0, 0), name="hood"))
    second = measured(length(44, 43.9, (0, 0, 1), name="Hem to hood"), length(5, 5.1, (1, 0, 0)))
    third = measured(length(44.2, 44.1, (0, 0, 1), name="hem to hood"), length(10, 9.8, (1, 0, 0), name="hood"),
                     length(5, 5.0, (1, 0, 0)))  # fmt: skip
    before = lengths_before(third, [(1, first), (2, second)])
    assert {k: (one.proof, one.measured) for k, one in before.items()} == {0: (2, 43.9), 1: (1, 9.9)}
    assert lengths_before(first, []) == {}
    # Of another part of the same name nothing is compared.
    other = measured(length(44, 1, (0, 0, 1), name="hem to hood"), parts=[printed("crest")])
    assert lengths_before(third, [(1, other)]) == {}
    # What was measured before and not yet again is offered, at the part's place in this proof.
    two = measured(length(10, 9.7, (1, 0, 0), name="hood"), parts=[printed("crest"), printed("body")])
    here = two.model_copy(update={"came": came()})
    assert [(one.name, one.part) for one in lengths_to_take(here, [(1, first)])] == [("hem to hood", 1), ("hood", 1)]
    assert [one.name for one in lengths_to_take(second, [(1, first)])] == ["hood"]
    assert lengths_to_take(first, [(2, first)]) == ()
