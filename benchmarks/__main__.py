"""``make benchmark``: prints every ratio and limit, and exits with 1 when one is missed."""

import sys
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.browser import first_picture, place_of_a_stroke
from benchmarks.measured import Measured, measured
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
from ulvet.core.io import read_mesh, stl_bytes
from ulvet.core.mesh import Mesh, joined, scaled
from ulvet.core.splitting import split_longer
from ulvet.demo.ferrywoman import ferrywoman as ferrywoman_figure
from ulvet.standins.objects import driftwood

__all__ = ["main"]


_CHANGES = {
    "everything from nothing": 45.0,
    "a finding accepted": 1.0,
    "undo": 1.0,
    "another material on the same printer": 6.0,
    "another height": 12.0,
}
"""Seconds that a build may take after a change; a material's three and three more for its table of sizes."""


def main() -> int:
    """Run every benchmark; the exit code."""
    with tempfile.TemporaryDirectory() as folder:
        large, figure = Path(folder) / "large.stl", Path(folder) / "figure.stl"
        large.write_bytes(stl_bytes(_wavy_ball(1323)))
        figure.write_bytes(stl_bytes(_wavy_ball(671, 15.0)))
        print(f"welding an STL of {_triangles(large):,} triangles")
        ours, theirs = measured(read_ours, large), measured(read_theirs, large)
        good = _ratio("time", ours.seconds, theirs.seconds, 0.25, "s", ours, theirs)
        good &= _ratio("peak memory", ours.peak_mb, theirs.peak_mb, 0.5, "MB", ours, theirs)
        print(f"600 layers of {_triangles(figure):,} triangles, with areas and islands, once compiled")
        ours, theirs = measured(layers_ours, figure), measured(layers_theirs, figure)
        good &= _ratio("time", ours.seconds, theirs.seconds, 0.25, "s", ours, theirs)
        good &= _limit("time", ours.seconds, 3)

        ball, ferrywoman = Path(folder) / "ball.stl", Path(folder) / "ferrywoman.stl"
        ball.write_bytes(stl_bytes(_wavy_ball(388, 30.0)))
        modelled = ferrywoman_figure()
        tall = float(np.ptp(modelled.vertices[:, 2]))
        ferrywoman.write_bytes(stl_bytes(scaled(modelled, 60 / tall)))
        print(f"ways to stand for {_triangles(ball):,} triangles, 60 mm tall, on Lantern 6")
        screened, chosen = measured(screen_ours, ball), measured(choose_ours, ball)
        good &= _limit(f"screening {screened.result:,} ways", screened.seconds, 6)
        good &= _limit(f"the layers of the best {chosen.result}", chosen.seconds - screened.seconds, 10)
        held = measured(hold_ours, ferrywoman)
        print(f"supports for the demo's figure, {_triangles(ferrywoman):,} triangles, 60 mm tall")
        good &= _limit(f"{held.result:,} contacts, columns and the layers again", held.seconds, 10)
        print("a recipe with its last step changed, against that step alone")
        alone, replay = measured(step_ours, ferrywoman), measured(replay_ours, ferrywoman)
        kept = replay.seconds <= 1.2 * alone.seconds
        print(
            f"  {'kept' if kept else 'MISSED'}: {replay.seconds:.2f} s against {alone.seconds:.2f} s, "
            f"ratio {replay.seconds / alone.seconds:.2f} of 1.2 allowed"
        )
        million = Path(folder) / "million.stl"
        million.write_bytes(stl_bytes(_wavy_ball(708, 30.0)))
        thinned = measured(thin_ours, million)
        print(f"thinning {_triangles(million):,} triangles out, with the deviation measured both ways")
        good &= _limit(f"to {thinned.result:,}", thinned.seconds, 6)
        good &= _thinned_within(Path(folder) / "scanned.stl")
        good &= _changed(figure)
        good &= _limit("forty sizes of the demo's figure, walls known", measured(sizes_ours, ferrywoman).seconds, 1)
        lump = Path(folder) / "lump.stl"
        lump.write_bytes(stl_bytes(driftwood()))
        fused = measured(fuse_ours, lump)
        good &= _limit(f"24 passes of 60,000 points fused to {fused.result:,} triangles", fused.seconds, 20)
        good &= _gauged(Path(folder), ferrywoman)
        good &= _mended(Path(folder), figure, ferrywoman)
        good &= _made(Path(folder), ball)
        print(f"the first picture of {_triangles(million):,} triangles in the page, from the end of its upload")
        good &= _limit("drawn and at rest", first_picture(million), 4)
    return 0 if good and kept else 1


def _gauged(folder: Path, ferrywoman: Path) -> bool:
    """How thin a figure is, what breaks first, how it stands."""
    shell = folder / "shell.stl"
    outer, inner = _wavy_ball(474, 15.0), _wavy_ball(474, 14.2)
    shell.write_bytes(stl_bytes(joined(outer, Mesh(inner.vertices, inner.faces[:, ::-1]))))
    walls, theirs = measured(walls_ours, shell), measured(spheres_theirs, shell)
    print(f"walls of a shell of {_triangles(shell):,} triangles")
    good = _limit(f"at {walls.result:,} samples", walls.seconds, 20)
    faster = (theirs.seconds / theirs.result) / (walls.seconds / walls.result)
    kept = faster >= 2000
    print(
        f"  {'kept' if kept else 'MISSED'}: a sample {1e6 * walls.seconds / walls.result:.1f} µs against "
        f"{1e6 * theirs.seconds / theirs.result:,.0f} µs of trimesh's spheres, {faster:,.0f} times of 2,000"
    )
    again = measured(walls_near_ours, shell)
    good &= kept & _limit(
        f"again after a place was thickened, at {again.result:,} samples, of the whole",
        100 * again.seconds / walls.seconds,
        10,
        "%",
    )
    fine = folder / "fine_figure.stl"
    mesh = read_mesh(ferrywoman)
    tall = float(np.ptp(mesh.vertices[:, 2]))
    fine.write_bytes(stl_bytes(split_longer(mesh, tall * 0.006)[0]))
    handled = measured(handling_ours, fine)
    return good & _limit(
        f"{handled.result} limbs and the balance of the demo's figure in {_triangles(fine):,} triangles",
        handled.seconds,
        5,
    )


def _mended(folder: Path, figure: Path, ferrywoman: Path) -> bool:
    """What is wrong with a mesh, and what mends it."""
    print(f"mending: what is wrong with {_triangles(figure):,} triangles")
    good = _limit("all of it", measured(diagnose_ours, figure).seconds, 12)
    good &= _limit("crossing faces alone", measured(cross_ours, figure).seconds, 6)
    holed = folder / "holed.stl"
    holed.write_bytes(stl_bytes(_wavy_ball(224, 30.0)))
    mended = measured(mend_ours, holed)
    good &= _limit(f"{mended.result} holes in {_triangles(holed):,} triangles closed exactly", mended.seconds, 10)
    remade = measured(remake_ours, ferrywoman)
    good &= _limit(
        f"the demo's figure, 60 mm tall, closed, remade at 0.1 mm, {remade.result:,} triangles", remade.seconds, 20
    )
    good &= _limit("the same", remade.peak_mb, 4_000, "MB")
    torn = measured(remake_open_ours, ferrywoman)
    good &= _limit(f"the same with holes, left open, {torn.result:,} triangles", torn.seconds, 30)
    good &= _limit("the same", torn.peak_mb, 4_000, "MB")
    return good


def _made(folder: Path, ball: Path) -> bool:
    """By which figures come together: joins, stamps, strokes."""
    small = folder / "small.stl"
    small.write_bytes(stl_bytes(_wavy_ball(388, 10.0)))
    both = measured(join_ours, small)
    good = _limit(f"two bits of {_triangles(small):,} triangles joined with a round", both.seconds, 5)
    pressed = measured(stamp_ours, ball)
    good &= _limit(f"a stamp of 512 x 512 on {_triangles(ball):,} triangles", pressed.seconds, 3)
    fine = folder / "fine.stl"
    fine.write_bytes(stl_bytes(_wavy_ball(548, 30.0)))
    stroked = measured(stroke_ours, fine)
    good &= _limit(
        f"a sample of a stroke, {stroked.result:,} of {_triangles(fine) // 2 + 2:,} vertices",
        stroked.seconds * 10,
        8,
        "ms",
    )
    good &= _limit("such a sample until it can be drawn at the browser", 1000 * place_of_a_stroke(fine, 6.3), 30, "ms")
    return good


def _thinned_within(scanned: Path) -> bool:
    scanned.write_bytes(stl_bytes(_rough_scan()))
    thinned = measured(thin_within_ours, scanned)
    print(f"thinning a rough scan of {_triangles(scanned):,} triangles to where nothing moves more than 0.02 mm")
    kept = [_limit("time", thinned.seconds, 45), _limit("triangles left", thinned.result, 300_000, "")]
    return all(kept)


def _changed(figure: Path) -> bool:
    print(f"a figure of {_triangles(figure):,} triangles, built and built again after a change")
    took = measured(changes_ours, figure, runs=1).result
    kept = [_limit(change, took[change], most) for change, most in _CHANGES.items()]
    return all(kept)


def _limit(what: str, took: float, most: float, unit: str = "s") -> bool:
    kept = took <= most
    print(f"  {'kept' if kept else 'MISSED'}: {what}, {took:.2f} {unit} of {most:g} {unit} allowed")
    return kept


def _ratio(what: str, ours: float, theirs: float, most: float, unit: str, us: Measured, them: Measured) -> bool:
    kept = ours <= most * theirs
    print(
        f"  {'kept' if kept else 'MISSED'}: {what} {ours:.2f} {unit} against {theirs:.2f} {unit} of trimesh, "
        f"ratio {ours / theirs:.3f} of {most} allowed ({us.result:,} and {them.result:,})"
    )
    return kept


def _triangles(path: Path) -> int:
    return (path.stat().st_size - 84) // 50


def _wavy_ball(rings: int, radius: float = 40.0) -> Mesh:
    """A closed ball with ripples, 2 x rings² faces, its faces in random order as files often have them."""
    u = np.linspace(0, np.pi, rings + 1)[1:-1]
    v = np.arange(rings) * 2 * np.pi / rings
    su, sv = np.meshgrid(u, v, indexing="ij")
    r = radius * (1 + 0.01 * np.sin(24 * su) * np.sin(24 * sv))
    ring = np.stack([r * np.sin(su) * np.cos(sv), r * np.sin(su) * np.sin(sv), r * np.cos(su)], axis=-1)
    points = np.concatenate([ring.reshape(-1, 3), [[0, 0, radius], [0, 0, -radius]]])
    here = np.arange(rings)
    onward = (here + 1) % rings
    base = np.arange(rings - 2)[:, None] * rings
    a, b, c, d = base + here, base + rings + here, base + rings + onward, base + onward
    body = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    top, bottom, last = len(points) - 2, len(points) - 1, (rings - 2) * rings
    caps = [
        np.stack([np.full(rings, top), here, onward], 1),
        np.stack([np.full(rings, bottom), last + onward, last + here], 1),
    ]
    faces = np.concatenate([body, *caps])
    return Mesh(points, np.random.default_rng(0).permutation(faces).astype(np.int32))


def _rough_scan() -> Mesh:
    """A ball of 871,200 triangles as a scanner gives it: a hundredth of a mm of noise, and one place of a tenth."""
    smooth = _wavy_ball(660)
    noise = np.random.default_rng(1).normal(0.0, 1.0, smooth.vertices.shape)
    place = np.linalg.norm(smooth.vertices - [40.0, 0, 0], axis=1) < 4
    return Mesh(smooth.vertices + noise * np.where(place, 0.1, 0.01)[:, None], smooth.faces)


if __name__ == "__main__":
    sys.exit(main())
