"""What the checks say against what the simulated printer does, which shares nothing with them but the raster."""

import numpy as np

from tests.depth import DEEP
from tests.kept import build_kept
from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.geometry.solids import mesh_of, solids_of
from ulvet.core.proof.foretold import FORETELLS
from ulvet.core.recipe.runner import Recipe
from ulvet.core.stand.steps import Support
from ulvet.standins.printing import print_of
from ulvet.standins.truths import truths_of
from ulvet.work.printer_link import CAUSES

SETUP = DEFAULT_BENCH.setup()
SHAPES = 30 if DEEP else 2
MOST_UNSAID, MOST_STILL_LOST = 0.1, 0.1


def figure_of(seed):
    """A foot with posts, arms from which something hangs, and a slab on legs, as the dice have it."""
    dice = np.random.default_rng(seed)
    pieces = [box(20, 20, 3, at=(-10, -10, 0))]
    for x in (-7.0, 7.0):
        radius, tall = float(dice.choice([0.35, 1.2, 2.5])), float(dice.uniform(8, 18))
        pieces.append(cylinder(radius, tall, at=(x, -6, 1)))
    post = float(dice.uniform(12, 18))
    pieces += [box(3, 3, post, at=(-1.5, 2, 2)), box(3, 12, 2.5, at=(-1.5, 2, post))]
    if dice.random() < 0.6:
        pieces.append(box(2.4, 2.4, float(dice.uniform(3, 7)), at=(-1.2, 11, post - 6)))
        pieces.append(box(1.6, 1.6, 8, at=(-0.8, 11.4, post - 5)))
    solids = solids_of(*pieces)
    whole = solids[0].body
    for other in solids[1:]:
        whole += other.body
    return mesh_of(whole)[0]


def built(mesh, *steps):
    recipe = Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"), *steps))
    return build_kept(recipe, Edition(), {mesh.hash: mesh})


def printed(build, seed):
    (part,) = build.parts
    stood = part.stance.in_print(part.mesh, 1.0)
    truths = truths_of(seed).model_copy(update={"shifts": 0.0})
    return print_of(stood, part.supports, SETUP.layer, 0.05, truths, seed).events


def test_what_is_lost_was_foretold_and_what_is_held_comes_out():
    lost = unsaid = still = 0
    for seed in range(SHAPES):
        mesh = figure_of(seed)
        bare = built(mesh)
        codes = {finding.code for finding in bare.findings}
        for event in printed(bare, seed):
            lost += 1
            unsaid += not codes & set(FORETELLS[CAUSES[event.kind][0]])
        held = built(mesh, Support())
        still += any(event.kind != "broke" for event in printed(held, seed))
    assert lost >= SHAPES / 3
    assert unsaid <= MOST_UNSAID * lost
    assert still <= MOST_STILL_LOST * SHAPES


def test_what_nothing_is_said_of_comes_out():
    sound = concatenated(box(20, 20, 4, at=(-10, -10, 0)), cylinder(4, 16, at=(0, 0, 2)))
    build = built(sound)
    assert {finding.code for finding in build.findings} <= {"overlapping-shells"}
    assert printed(build, 3) == ()
