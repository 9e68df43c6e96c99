"""Packing a set, verifying and publishing a pack from the command line."""

import json
import zipfile

import pytest
from typer.testing import CliRunner

from tests.devices import running_shop
from tests.shapes import box
from ulvet.cli import app
from ulvet.core.bench.edition import Edition
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.read import read_file
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.steps import Cut
from ulvet.core.provenance.steps import Credit
from ulvet.core.recipe.runner import Recipe
from ulvet.core.release.recipe_file import RecipeFile

runner = CliRunner()


def run(*arguments):
    return runner.invoke(app, [str(one) for one in arguments])


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "post.stl").write_bytes(stl_bytes(box(6, 6, 20)))
    return tmp_path


def written(folder, **more):
    said = {"name": "Posts", "date": "2026-12-24", "items": [{"file": "post.stl", "height": 20}], **more}
    path = folder / "set.json"
    path.write_text(json.dumps(said), "utf-8")
    return path


def test_a_set_is_packed_verified_and_published(folder):
    items = [
        {"file": "post.stl", "height": 20, "name": "Post"},
        {"file": "post.stl", "height": 30, "tiers": ["bought"]},
    ]
    asked = written(folder, items=items, tiers=["free", "bought"], number=2)
    told = run("release", asked, "-o", folder / "out", "--json")
    assert told.exit_code == 0, told.output
    packs = json.loads(told.output)["packs"]
    assert [(pack["file"], len(pack["items"])) for pack in packs] == [
        ("posts_02_free.zip", 1), ("posts_02_bought.zip", 2),
    ]  # fmt: skip
    assert sorted(path.name for path in (folder / "out").iterdir()) == ["posts_02_bought.zip", "posts_02_free.zip"]
    assert run("release", asked, "-o", folder / "again").exit_code == 0
    for pack in packs:
        assert (folder / "again" / pack["file"]).read_bytes() == (folder / "out" / pack["file"]).read_bytes()
    free = folder / "out" / "posts_02_free.zip"
    seen = run("verify", free, "--json")
    assert (seen.exit_code, json.loads(seen.output)["whole"]) == (0, True)
    assert json.loads(seen.output)["sha256"] == packs[0]["sha256"]
    with running_shop(folder / "shop") as address:
        for _ in range(2):
            offered = run("publish", free, "--shop", address, "--price", 4.5, "--json")
            assert offered.exit_code == 0, offered.output
            assert json.loads(offered.output)["times"] == 1
    assert run("publish", free, "--shop", address).exit_code == 2
    assert run("publish", free, "--shop", "http://shop.example").exit_code == 2
    with zipfile.ZipFile(free, "a") as archive:
        archive.writestr("more.txt", b"more")
    altered = run("verify", free)
    assert altered.exit_code == 1 and "added: more.txt" in altered.output
    refused = run("publish", free, "--shop", address)
    assert refused.exit_code == 2 and "was not published" in refused.output


def test_an_item_leaves_out_of_its_recipe_what_its_form_says(folder):
    read = read_file(folder / "post.stl")
    own = Credit(source=read.mesh.hash, file="post.stl", terms="own-work")
    recipe = Recipe(steps=(bring_in_step(read, "post.stl"), own, Cut(offset=FigureMM(10))))
    (folder / "post.json").write_bytes(RecipeFile.of("Post", recipe, Edition(height=PrintMM(20))).to_bytes())
    items = [{"recipe": "post.json"}, {"recipe": "post.json", "whole": True}]
    words = dict.fromkeys(("unkeyed", "joint-weak"), "It is meant so.")
    told = run("release", written(folder, items=items, words=words), "-o", folder / "out", "--json")
    assert told.exit_code == 0, told.output
    (pack,) = json.loads(told.output)["packs"]
    with zipfile.ZipFile(folder / "out" / pack["file"]) as archive:
        made = {name.split("/")[0] for name in archive.namelist() if name.endswith(".stl")}
        assert made == {"post_20mm_solid_in-parts", "post_20mm_solid_whole"}
        (whole,) = (name for name in archive.namelist() if "whole" in name and name.endswith(".stl"))
        assert archive.getinfo(whole).file_size == 84 + 50 * 12


def test_what_stops_is_said_with_its_remedy_and_nothing_is_written(folder):
    mesh = box(6, 6, 20)
    (folder / "open.stl").write_bytes(stl_bytes(mesh)[:-50].replace(b"\x0c\0\0\0", b"\x0b\0\0\0", 1))
    asked = written(folder, items=[{"file": "open.stl", "height": 20}])
    held = run("release", asked, "-o", folder / "out", "--json")
    assert held.exit_code == 1
    assert "open-edges" in {hold["code"] for hold in json.loads(held.output)["held"]}
    assert not (folder / "out").exists()
    words = {hold["code"]: "It is meant so." for hold in json.loads(held.output)["held"]}
    asked = written(folder, items=[{"file": "open.stl", "height": 20}], words=words)
    assert run("release", asked, "-o", folder / "out").exit_code == 0


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"date": "soon"}, "date"),
        ({"items": []}, "items"),
        ({"items": [{"file": "gone.stl"}]}, "not there"),
        ({"items": [{"recipe": "gone.json"}]}, "gone"),
        ({"items": [{"height": 20}]}, "a recipe or a file"),
        ({"items": [{"file": "post.stl", "tiers": ["vip"]}]}, "no tier 'vip'"),
        ({"items": [{"file": "post.stl", "setting": "none"}]}, "none"),
        ({"tiers": ["A!", "a"]}, "no file system tells apart"),
        ({"extra": 1}, "extra"),
    ],
)
def test_a_wrong_set_is_refused_by_name_and_nothing_is_written(folder, change, says):
    refused = run("release", written(folder, **change), "-o", folder / "out")
    assert refused.exit_code == 2 and says in refused.output
    assert not (folder / "out").exists()


def test_what_is_no_pack_is_said(folder):
    for name in ("post.stl", "none.zip"):
        refused = run("verify", folder / name)
        assert refused.exit_code == 2, refused.output
    (folder / "broken.json").write_text("{", "utf-8")
    assert run("release", folder / "broken.json", "-o", folder / "out").exit_code == 2
    assert run("release", folder / "none.json", "-o", folder / "out").exit_code == 2
