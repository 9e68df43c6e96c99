"""Commands of releases: pack a set, verify a pack, put one into a shop."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated

import typer

from ulvet.cli.common import CLEAN, STOPS, AsJson, BenchFile, app, bench_in, make_folder, refuse
from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.files.release import UnusableSet, read_set, ready_items
from ulvet.core.formats.errors import UnreadableFile, UnwritableFile
from ulvet.core.progress import no_progress
from ulvet.core.recipe.runner import NoMemory
from ulvet.core.release.issue import Hold, Pack, make_issue
from ulvet.core.release.pack import NoPack, manifest_of, verify_pack
from ulvet.core.release.recipe_file import UnusableRecipe
from ulvet.core.sources.picture import UnusablePicture


@app.command()
def release(
    release_set: Annotated[Path, typer.Argument(metavar="SET.json", help="A set; what it names lies beside it.")],
    out: Annotated[Path, typer.Option("--out", "-o", help="Folder for the packs.")],
    bench: BenchFile = None,
    as_json: AsJson = False,
) -> None:
    """Build, check and pack a set, one pack a tier. Exit code 0: packed; 1: something stops it; 2: not usable.

    SET.json holds name, date, tiers, items (recipe or file, height, setting, supported, solid, whole, closed,
    mirrored, kinds, tiers) and words, by the code of a finding what buyers are told of it.
    """
    from ulvet.store.blobs import Blobs  # here, as the other commands need nothing of the store

    try:
        asked, at = read_set(release_set), bench_in(bench)
        meant, items, holds = ready_items(asked, release_set.parent, at, lambda name: None)
        if holds:
            _say_holds(holds, as_json)
        make_folder(out, as_json)
        with TemporaryDirectory(prefix="ulvet-", dir=out) as folder:
            kept = Blobs(Path(folder) / "kept")
            made = make_issue(meant, items, asked.number, asked.date, {}, kept, NoMemory(), Path(folder), no_progress)
            for pack in made:
                (Path(folder) / pack.file_name).replace(out / pack.file_name)
    except OSError as error:
        refuse(f"{out} could not be written ({error.strerror}): make room or name another; no pack is cut.", as_json)
    except (
        UnreadableFile, UnwritableFile, UnknownOnBench, UnusablePicture, UnusableRecipe, UnusableSet,
    ) as error:  # fmt: skip
        refuse(str(error), as_json)
    if as_json:
        typer.echo(json.dumps({"packs": [_told(pack) for pack in made]}, ensure_ascii=False))
    else:
        for pack in made:
            files, items_in = len(pack.manifest.files) + 2, len(pack.manifest.items)
            typer.echo(f"{pack.sha256}  {pack.file_name}  {pack.bytes / 1e6:.1f} MB, {items_in} items, {files} files")
    raise typer.Exit(CLEAN)


@app.command()
def verify(
    pack: Annotated[Path, typer.Argument(help="A pack of a release.")],
    as_json: AsJson = False,
) -> None:
    """Say whether a pack is whole. Needs no studio. Exit code 0: whole; 1: altered; 2: no pack."""
    try:
        seen = verify_pack(pack)
    except NoPack as error:
        refuse(str(error), as_json)
    if as_json:
        typer.echo(seen.model_dump_json())
    else:
        typer.echo(seen.why)
        if seen.name:
            typer.echo(
                f"{seen.name}, issue {seen.number}, {seen.tier}: {seen.files:,} files, {seen.bytes / 1e6:.1f} MB"
            )
        for said, names in (("altered", seen.altered), ("missing", seen.missing), ("added", seen.added)):
            for name in names:
                typer.echo(f"{said}: {name}")
    raise typer.Exit(CLEAN if seen.whole else STOPS)


@app.command()
def publish(
    pack: Annotated[Path, typer.Argument(help="A pack of a release.")],
    shop: Annotated[str, typer.Option("--shop", help="Address of a shop on this machine.")],
    title: Annotated[str | None, typer.Option(help="What it is called there; else the set's name.")] = None,
    text: Annotated[str, typer.Option(help="What is said of it.")] = "",
    price: Annotated[float, typer.Option(min=0, help="What it costs.")] = 0.0,
    as_json: AsJson = False,
) -> None:
    """Put a pack into a shop, or replace its earlier issue there. Exit code 0: in place; 2: not usable, or refused.

    The shop is asked first what it has: the same pack is never sent twice.
    """
    from ulvet.core.release.names import safe_name
    from ulvet.work.refusals import Refused
    from ulvet.work.shop_link import publish_pack

    try:
        seen = verify_pack(pack)
        if not seen.whole:
            refuse(f"{pack.name} was not published. {seen.why}", as_json)
        manifest = manifest_of(pack)
        asked = {
            "issue": manifest.number, "title": title or manifest.name, "text": text, "price": price, "tags": [],
            "terms": list(manifest.terms), "notice": list(manifest.changed),
        }  # fmt: skip
        offer = f"{safe_name(manifest.name)}.{safe_name(manifest.tier)}"
        now = publish_pack(shop, offer, pack, seen.sha256, asked)
    except (NoPack, Refused) as error:
        refuse(str(error), as_json)
    if as_json:
        typer.echo(now.model_dump_json())
    else:
        typer.echo(f"{pack.name} is in place as {now.offer}, issue {now.issue}, {now.buyers} buyers")
    raise typer.Exit(CLEAN)


def _say_holds(holds: tuple[Hold, ...], as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps({"packs": [], "held": [hold.model_dump(mode="json") for hold in holds]}))
    else:
        typer.echo("Not packed, and nothing was written:")
        for hold in holds:
            typer.echo(f"item {hold.item + 1}  {hold.code or 'empty':22} {hold.title}. {hold.why}")
    raise typer.Exit(STOPS)


def _told(pack: Pack) -> dict[str, object]:
    return {
        "tier": pack.tier, "file": pack.file_name, "sha256": pack.sha256, "bytes": pack.bytes,
        "items": [item.model_dump(mode="json", exclude={"open"}) for item in pack.manifest.items],
        "files": [entry.name for entry in pack.manifest.files],
    }  # fmt: skip
