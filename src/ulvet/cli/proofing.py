"""The commands that make coupons, and learn from them."""

import json
from pathlib import Path
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, AsJson, BenchFile, app, bench_in, refuse, write
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.coupons import learnt_from_file
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.proof.coupon_told import UnreadableCoupon
from ulvet.core.proof.coupons import CouponKind, coupon_of


@app.command()
def coupon(
    kind: Annotated[CouponKind, typer.Argument(help="A ladder of gaps, a block to measure, or walls and pins.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="STL to write.")],
    setting: Annotated[str | None, typer.Option("--setting", help="Id of the setting it is for.")] = None,
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Make a coupon for a setting. Exit code 0: done; 2: not usable."""
    try:
        setup = bench_in(bench).setup(setting)
    except UnknownOnBench as error:
        refuse(str(error), as_json)
    made = coupon_of(kind, setup)
    write(out, stl_bytes(made.mesh), as_json)
    features = [
        {"name": one.name, "kind": one.kind, "at": one.at, "mm": one.size, "gap": one.gap, "along": one.direction,
         "over": one.over}
        for one in made.features
    ]  # fmt: skip
    if as_json:
        typer.echo(json.dumps({"coupon": kind, "setting": setup.setting.id, "file": out.name, "features": features}))
    else:
        typer.echo(f"{out.name}: {len(features)} places to read, for {setup.setting.name}")
    raise typer.Exit(CLEAN)


@app.command()
def learn(
    told: Annotated[Path, typer.Argument(help="JSON: what was read from coupons.")],
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Say what coupons teach of a setting, with ranges that hold nine times in ten. Exit code 0: done; 2: no."""
    try:
        learnt = learnt_from_file(told, bench_in(bench))
    except (UnreadableFile, UnreadableCoupon, UnknownOnBench) as error:
        refuse(str(error), as_json)
    if as_json:
        typer.echo(json.dumps({"learnt": [one.model_dump(mode="json") for one in learnt]}, ensure_ascii=False))
    for one in () if as_json else learnt:
        between = "" if one.low is None or one.high is None else f", {one.low:.4g} to {one.high:.4g}"
        now = "" if one.now is None else f"; the bench has {one.now:.4g}"
        typer.echo(f"{one.title}: {one.value:.4g} {one.unit}{between}, from {one.count}{now}")
        for says in one.outliers:
            typer.echo(f"  left out: {says}")
    raise typer.Exit(CLEAN)
