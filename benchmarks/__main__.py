"""``make benchmark``: prints every ratio and limit as it is known, and exits with 1 when one is missed.

``make benchmark ONLY=layers,mend`` measures the sections with these names.
"""

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from benchmarks.browser import first_picture, place_of_a_stroke
from benchmarks.figures import Figures, triangles
from benchmarks.finishing import grow_ours, mix_ours, reach_ours
from benchmarks.hollowing import WALL, cups_ours, hollow_ours, openings_ours
from benchmarks.lines import about, at_least, limit, ratio
from benchmarks.measured import measured
from benchmarks.parting import assembly_ours, cut_ours, fit_ours
from benchmarks.planning import days_ours, layer_findings_ours, pack_ours
from benchmarks.proving import learn_ours, print_ours
from benchmarks.releasing import ITEMS, verify_ours
from benchmarks.releasing import pack_ours as pack_release_ours
from benchmarks.subjects import (
    changes_ours,
    choose_ours,
    cross_ours,
    diagnose_ours,
    fuse_ours,
    handling_ours,
    hold_ours,
    join_ours,
    layers_ours,
    layers_theirs,
    mend_ours,
    read_ours,
    read_theirs,
    remake_open_ours,
    remake_ours,
    replay_ours,
    screen_ours,
    sizes_ours,
    spheres_theirs,
    stamp_ours,
    step_ours,
    stroke_ours,
    thin_ours,
    thin_within_ours,
    walls_near_ours,
    walls_ours,
)

__all__ = ["SECTIONS", "main"]

Section = Callable[[Figures], list[bool]]
"""Prints its lines; whether each is kept."""


def main(only: str = "") -> int:
    """Run the sections named in ``only``, with commas between them, or all; the exit code."""
    names = [name.strip() for name in only.split(",") if name.strip()]
    if unknown := set(names) - SECTIONS.keys():
        print(f"There is nothing to measure called {', '.join(sorted(unknown))}; there are {', '.join(SECTIONS)}.")
        return 2
    with tempfile.TemporaryDirectory() as folder:
        figures = Figures(Path(folder))
        kept = [line for name in names or SECTIONS for line in SECTIONS[name](figures)]
    return 0 if all(kept) else 1


def _bring_in(figures: Figures) -> list[bool]:
    large, million, scan = figures["3.5 million"], figures["million"], figures["rough scan"]
    about(f"welding an STL of {triangles(large):,} triangles, against trimesh")
    ours, theirs = measured(read_ours, large), measured(read_theirs, large)
    kept = [ratio("time", ours, theirs, 0.25), ratio("peak memory", ours, theirs, 0.5, "peak_mb", "MB")]
    about(f"thinning {triangles(million):,} triangles out, with the deviation measured both ways")
    thinned = measured(thin_ours, million)
    kept.append(limit(f"to {thinned.result:,}", thinned.seconds, 6))
    about(f"thinning a rough scan of {triangles(scan):,} triangles to where nothing moves more than 0.02 mm")
    within = measured(thin_within_ours, scan)
    kept += [limit("time", within.seconds, 45), limit("triangles left", within.result, 300_000, "")]
    about("24 passes of 60,000 points")
    fused = measured(fuse_ours, figures["driftwood"])
    return [*kept, limit(f"fused to {fused.result:,} triangles", fused.seconds, 20)]


def _size(figures: Figures) -> list[bool]:
    about("the demo's figure, walls known")
    return [limit("forty sizes", measured(sizes_ours, figures["ferrywoman"]).seconds, 1)]


def _mend(figures: Figures) -> list[bool]:
    figure, holed, ferrywoman = figures["0.9 million"], figures["0.1 million"], figures["ferrywoman"]
    about(f"mending: what is wrong with {triangles(figure):,} triangles")
    kept = [
        limit("all of it", measured(diagnose_ours, figure).seconds, 12),
        limit("crossing faces alone", measured(cross_ours, figure).seconds, 6),
    ]
    mended = measured(mend_ours, holed)
    kept.append(limit(f"{mended.result} holes in {triangles(holed):,} triangles closed exactly", mended.seconds, 10))
    about("the demo's figure, 60 mm tall, remade at 0.1 mm")
    for says, subject, most in (("closed", remake_ours, 20), ("with holes, left open", remake_open_ours, 30)):
        remade = measured(subject, ferrywoman)
        kept.append(limit(f"{says}, {remade.result:,} triangles", remade.seconds, most))
        kept.append(limit("the same", remade.peak_mb, 4_000, "MB"))
    return kept


def _gauge(figures: Figures) -> list[bool]:
    shell, fine = figures["shell"], figures["fine ferrywoman"]
    about(f"walls of a shell of {triangles(shell):,} triangles, a sample's against trimesh's spheres")
    walls, theirs = measured(walls_ours, shell), measured(spheres_theirs, shell)
    faster = (theirs.seconds / theirs.result) / (walls.seconds / walls.result)
    kept = [
        limit(f"at {walls.result:,} samples", walls.seconds, 20),
        at_least("a sample", faster, 2_000, "times as fast"),
    ]
    again = measured(walls_near_ours, shell)
    what = f"again after a place was thickened, at {again.result:,} samples, of the whole"
    kept.append(limit(what, 100 * again.seconds / walls.seconds, 10, "%"))
    handled = measured(handling_ours, fine)
    about(f"the demo's figure in {triangles(fine):,} triangles")
    return [*kept, limit(f"{handled.result} limbs and its balance", handled.seconds, 5)]


def _hollow(figures: Figures) -> list[bool]:
    figure, layered = figures["fine ferrywoman, mended"], figures["0.9 million"]
    about(f"{triangles(figure):,} triangles, 60 mm tall, hollowed to {WALL} mm at a tenth of that")
    hollow = measured(hollow_ours, figure)
    kept = [
        limit(f"with its wall measured, {hollow.result:.2%} of it in the middle", hollow.seconds, 8),
        limit("the same", hollow.peak_mb, 2_000, "MB"),
    ]
    openings = measured(openings_ours, figure)
    kept.append(limit(f"{openings.result} openings proposed", openings.seconds, 5))
    about(f"600 layers of {triangles(layered):,} triangles")
    return [*kept, limit("with areas, islands and cups", measured(cups_ours, layered).seconds, 2)]


def _part(figures: Figures) -> list[bool]:
    large, small = figures["0.9 million"], figures["0.1 million"]
    about(f"{triangles(large):,} triangles cut in two")
    cut, fit = measured(cut_ours, large), measured(fit_ours, large)
    kept = [
        limit(f"a plane cut with {cut.result} keys", cut.seconds, 6),
        limit("gaps, overlap, ways round and in of that joint", fit.seconds, 2),
    ]
    about(f"{triangles(small):,} triangles cut by boxes and keyed")
    order = measured(assembly_ours, small)
    return [*kept, limit(f"joints, ways in and order of {order.result} parts", order.seconds, 20)]


def _plates(figures: Figures) -> list[bool]:
    about("plates and days")
    packed = measured(pack_ours, figures["ferrywoman"])
    days = measured(days_ours, figures["ferrywoman"])
    about(f"80 prints: ready {days.result} % of the bound after it")
    return [
        limit(f"60 parts of 20 shapes packed on {packed.result} plates", packed.seconds, 8),
        limit("80 prints on four printers, washed, cured and cleaned up, planned", days.seconds, 20),
    ]


def _proof(figures: Figures) -> list[bool]:
    path = figures["fine ferrywoman"]
    about(f"a simulated print of {triangles(path):,} triangles, 75 mm tall, on Lantern 6")
    printed = measured(print_ours, path)
    learnt = measured(learn_ours, path)
    return [
        limit(f"{printed.result:,} layers printed, limbs weighed", printed.seconds, 60),
        limit(f"{learnt.result} values learnt from 200 proofs with 1,600 lengths", learnt.seconds, 1),
    ]


def _release(figures: Figures) -> list[bool]:
    ball = figures["0.3 million"]
    about(f"{ITEMS} sizes of {triangles(ball):,} triangles as STL and 3MF, with pictures and guide")
    packed, verified = measured(pack_release_ours, ball, runs=1), measured(verify_ours, ball, runs=1)
    return [
        limit(f"packed, {packed.result} MB", packed.seconds, 60),
        limit("peak memory", packed.peak_mb, 1_500, "MB"),
        limit(f"{verified.result} files verified", verified.seconds, 10),
    ]


def _finish(figures: Figures) -> list[bool]:
    million, ferrywoman = figures["million"], figures["fine ferrywoman"]
    about(f"a region on {triangles(million):,} triangles; a brush of 4 mm in five stages on {triangles(ferrywoman):,}")
    grown, reached = measured(grow_ours, million), measured(reach_ours, ferrywoman)
    mixed = measured(mix_ours, ferrywoman)
    return [
        limit(f"{grown.result:,} faces grown, once opened", grown.seconds, 0.3),
        limit("reach, 75 mm tall", reached.seconds, 10),
        limit("mixes of the bench's paints", mixed.seconds, 1.5),
    ]


def _stand(figures: Figures) -> list[bool]:
    ball, ferrywoman = figures["0.3 million"], figures["ferrywoman"]
    about(f"ways to stand for {triangles(ball):,} triangles, 60 mm tall, on Lantern 6")
    screened, chosen = measured(screen_ours, ball), measured(choose_ours, ball)
    kept = [
        limit(f"screening {screened.result:,} ways", screened.seconds, 6),
        limit(f"the layers of the best {chosen.result}", chosen.seconds - screened.seconds, 10),
    ]
    about(f"supports for the demo's figure, {triangles(ferrywoman):,} triangles, 60 mm tall")
    held = measured(hold_ours, ferrywoman)
    return [*kept, limit(f"{held.result:,} contacts, columns and the layers again", held.seconds, 10)]


def _layers(figures: Figures) -> list[bool]:
    figure = figures["0.9 million"]
    about(f"600 layers of {triangles(figure):,} triangles, with areas and islands, once compiled, against trimesh")
    ours, theirs = measured(layers_ours, figure), measured(layers_theirs, figure)
    told = measured(layer_findings_ours, figure)
    return [
        ratio("time", ours, theirs, 0.25),
        limit("time", ours.seconds, 3),
        limit(f"jumps, pull, hold, lines and gaps of {told.result:,} layers", told.seconds, 2),
    ]


def _join(figures: Figures) -> list[bool]:
    small, ball, fine = figures["0.3 million, small"], figures["0.3 million"], figures["0.6 million"]
    about(f"bits of {triangles(small):,} triangles, a stamp on {triangles(ball):,}, strokes on {triangles(fine):,}")
    kept = [
        limit("two bits joined with a round", measured(join_ours, small).seconds, 5),
        limit("a stamp of 512 x 512", measured(stamp_ours, ball).seconds, 3),
    ]
    stroked = measured(stroke_ours, fine)
    vertices = f"{stroked.result:,} of {triangles(fine) // 2 + 2:,} vertices"
    kept.append(limit(f"a sample of a stroke, {vertices}", stroked.seconds * 10, 8, "ms"))
    drawn = 1000 * place_of_a_stroke(fine, 6.3)
    return [*kept, limit("such a sample until it can be drawn at the browser", drawn, 30, "ms")]


_CHANGES = {
    "everything from nothing": 45.0,
    "a finding accepted": 1.0,
    "undo": 1.0,
    "another material on the same printer": 6.0,
    "another height": 12.0,
    "another edition, of its own size and setting": 12.0,
    "a value of the bench": 3.0,
    "a local change, after its step": 8.0,
}
"""Seconds that a build may take after a change; a material's three and three more for its table of sizes."""


def _build(figures: Figures) -> list[bool]:
    figure, ferrywoman = figures["0.9 million"], figures["ferrywoman"]
    about(f"a figure of {triangles(figure):,} triangles, built and built again after a change")
    took = measured(changes_ours, figure, runs=1).result
    kept = [limit(change, took[change], most) for change, most in _CHANGES.items()]
    about("a recipe with its last step changed, against that step alone")
    alone, replay = measured(step_ours, ferrywoman), measured(replay_ours, ferrywoman)
    return [*kept, ratio("time", replay, alone, 1.2)]


def _page(figures: Figures) -> list[bool]:
    million = figures["million"]
    about(f"the first picture of {triangles(million):,} triangles in the page, from the end of its upload")
    return [limit("drawn and at rest", first_picture(million), 4)]


SECTIONS: dict[str, Section] = {
    "bring-in": _bring_in,
    "size": _size,
    "mend": _mend,
    "gauge": _gauge,
    "hollow": _hollow,
    "part": _part,
    "plates": _plates,
    "proof": _proof,
    "release": _release,
    "finish": _finish,
    "stand": _stand,
    "layers": _layers,
    "join": _join,
    "build": _build,
    "page": _page,
}


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
