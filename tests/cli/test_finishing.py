"""What colours take, and mixes, from the command line."""

import json

import pytest
from typer.testing import CliRunner

from tests.shapes import box
from ulvet.cli import app
from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.edition import Edition
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.finish.steps import Coat, ColourPlan, Region, RoleColour, Scheme
from ulvet.core.formats.read import read_file
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.recipe.runner import Recipe
from ulvet.core.release.recipe_file import RecipeFile

runner = CliRunner()


def run(*arguments):
    return runner.invoke(app, [str(one) for one in arguments])


@pytest.fixture
def recipe(tmp_path):
    source = tmp_path / "post.stl"
    source.write_bytes(stl_bytes(box(10, 10, 40)))
    scheme = Scheme(name="dusk", roles=(RoleColour(role="post", coats=(Coat(kind="base", paint="tide-blue"),)),))
    region = Region(role="post", grows="band", low=FigureMM(-1), high=FigureMM(20))
    plan = ColourPlan(regions=(region,), schemes=(scheme,))
    steps = (bring_in_step(read_file(source), source.name, "mm", "z"), plan)
    held = RecipeFile.of("Post", Recipe(steps=steps), Edition(height=PrintMM(20)))
    path = tmp_path / "post_recipe.json"
    path.write_bytes(held.to_bytes())
    return path


def test_areas_amounts_and_the_order_of_work_are_told(recipe):
    told = run("finish", recipe, "--json")
    assert told.exit_code in (0, 1), told.output
    said = json.loads(told.output)
    (role,) = said["schemes"][0]["roles"]
    # At half its size the lower half has four sides of 5 by 10 and a foot of 5 by 5.
    assert role["area_mm2"] == pytest.approx(225, rel=0.01)
    assert role["drops"] > 0 and said["work"][0]["what"] == "Wash"
    lines = run("finish", recipe).output
    assert "post: 2.2 cm²" in lines and "1. Wash" in lines
    # A recipe that is read again is the same plan.
    assert RecipeFile.read(recipe.read_bytes(), recipe.name).recipe.steps[-1].regions[0].role == "post"


def test_mixes_come_from_the_bench_that_is_given(tmp_path):
    told = json.loads(run("mix", "--want", "#41576B", "--json").output)
    assert told["proposals"][0]["difference"] < 1
    few = DEFAULT_BENCH.model_copy(update={"paints": tuple(p for p in DEFAULT_BENCH.paints if p.id == "rust")})
    path = tmp_path / "bench.json"
    exported = run("bench", "export", path)
    assert exported.exit_code == 0, exported.output
    held = json.loads(path.read_text("utf-8"))
    whole = held.get("bench", held)
    whole["paints"] = json.loads(few.model_dump_json())["paints"]
    path.write_text(json.dumps(held), "utf-8")
    assert "1 Rust" in run("mix", "--want", "#41576b", "--bench", path).output


@pytest.mark.parametrize("arguments", [("mix", "--want", "blue"), ("mix", "--want", "#12345"), ("finish", "none.json")])
def test_what_cannot_be_used_is_a_sentence(arguments):
    refused = run(*arguments)
    assert refused.exit_code == 2 and refused.output.strip().endswith(".")
