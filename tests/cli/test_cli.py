import json
import re
import zipfile
from pathlib import Path

import pytest
from typer.testing import CliRunner

from tests.cli.conftest import asked
from tests.shapes import BAD, ball, box, concatenated, cylinder, tube
from ulvet.cli import app
from ulvet.core.bench.edition import Edition
from ulvet.core.build.figure_build import build_figure
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.read import read_file, read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.topology import edges_of, is_watertight
from ulvet.core.lengths import PrintMM
from ulvet.core.mend.steps import CloseHoles, OrientFaces
from ulvet.core.provenance.steps import Credit
from ulvet.core.recipe.runner import Recipe
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.package import release_files
from ulvet.core.release.recipe_file import RecipeFile

DOCS = Path(__file__).parents[2] / "docs"


def inspect(path, *options):
    result = CliRunner().invoke(app, ["inspect", str(path), "--json", *options])
    return result.exit_code, json.loads(result.stdout)


def written(tmp_path, mesh, name="figure.stl"):
    path = tmp_path / name
    path.write_bytes(stl_bytes(mesh))
    return path


def test_a_clean_figure_is_measured_and_exits_0(tmp_path):
    code, said = inspect(written(tmp_path, tube(20, 15, 30, 128)))
    assert code == 0
    assert said["findings"] == []
    assert said["size_mm"] == pytest.approx([40, 40, 30], rel=1e-3)
    assert said["volume_mm3"] == pytest.approx(3.14159 * 175 * 30, rel=2e-3)
    assert (said["triangles"], said["vertices"], said["shells"], said["watertight"]) == (1024, 512, 1, True)
    assert len(said["sha256"]) == 64
    assert set(said["seconds"]) >= {"read", "mend", "gauge", "layers"}


def test_findings_that_stop_exit_1_and_name_their_place_in_the_file(tmp_path):
    figure = concatenated(box(20, 20, 10, at=(100, 200, 300)), cylinder(0.15, 10, 24, at=(104, 207, 309)))
    code, said = inspect(written(tmp_path, figure))
    assert code == 1
    wall = next(finding for finding in said["findings"] if finding["code"] == "thin-wall")
    assert set(wall) >= {"code", "severity", "part", "measured", "limit", "unit", "count", "where", "why", "remedies"}
    assert wall["code"] == "thin-wall"
    assert wall["measured"] == pytest.approx(0.3, rel=0.02)
    assert wall["where"]["point"] == pytest.approx([104, 207, 314.5], abs=0.6)


def test_height_scales_and_points_follow(tmp_path):
    figure = concatenated(box(20, 20, 10), cylinder(0.5, 10, 24, at=(4, 7, 10)))
    _, said = inspect(written(tmp_path, figure), "--height", "10")
    assert said["factor"] == pytest.approx(0.5)
    assert said["size_mm"] == pytest.approx([10, 10, 10])
    (wall,) = [f for f in said["findings"] if f["code"] == "thin-wall"]
    assert wall["measured"] == pytest.approx(0.5, rel=0.02)
    assert wall["where"]["point"][:2] == pytest.approx([2, 3.5], abs=0.3)


def test_unit_and_axis_can_be_given_or_are_guessed_and_said(tmp_path):
    path = written(tmp_path, box(0.02, 0.07, 0.03))
    code, said = inspect(path)
    assert (code, said["unit"]) == (0, "m")
    (finding,) = said["findings"]
    assert finding["code"] == "unit-doubtful"
    assert "metres" in finding["why"]
    _, said = inspect(path, "--unit", "m", "--up", "y")
    assert not said["findings"]
    assert said["size_mm"] == pytest.approx([20, 30, 70], rel=1e-5)


def test_every_required_finding_can_be_had(tmp_path):
    ring = ball(10)
    faces = ring.faces.copy()
    faces[:3] = faces[:3][:, ::-1]
    fan = Mesh(box(10, 10, 10).vertices, [*box(1, 1, 1).faces.tolist(), [0, 1, 6], [0, 6, 1]])
    shapes = {
        "open-edges": Mesh(ring.vertices, ring.faces[1:]),
        "nonmanifold-edges": fan,
        "inconsistent-winding": Mesh(ring.vertices, faces),
        "inverted-shell": Mesh(ring.vertices, ring.faces[:, ::-1]),
        "zero-area-faces": Mesh(ring.vertices, [*ring.faces.tolist(), [0, 0, 1]]),
        "unit-doubtful": ball(0.04),
        "thin-wall": box(20, 20, 0.3),
        "island": concatenated(box(10, 10, 2), box(2, 2, 2, at=(4, 4, 5))),
        "too-large-for-printer": box(10, 10, 400),
    }
    for wanted, mesh in shapes.items():
        _, said = inspect(written(tmp_path, mesh, f"{wanted}.stl"))
        assert wanted in [f["code"] for f in said["findings"]], wanted


@pytest.mark.parametrize("name", ["cut.stl", "boast.stl", "range.obj", "really-stl.obj", "empty.stl"])
def test_a_file_that_cannot_be_used_exits_2_with_one_sentence(tmp_path, name):
    path = tmp_path / name
    path.write_bytes(BAD[name][0])
    result = CliRunner().invoke(app, ["inspect", str(path)])
    assert result.exit_code == 2
    assert result.stdout == ""
    assert result.stderr.count("\n") == 1
    code, said = inspect(path)
    assert code == 2
    assert name in said["error"]


@pytest.mark.parametrize(
    "options",
    [("--height", "-3"), ("--height", "5", "--scale", "2"), ("--unit", "ell"), ("--up", "w"), ("--material", "x"),
     ("--printer", "lantern-6", "--material", "matt-filament"), ("--scale", "nan")],
)  # fmt: skip
def test_options_that_cannot_be_used_exit_2(tmp_path, options):
    code, said = inspect(written(tmp_path, box(10, 10, 10)), *options)
    assert code == 2
    assert said["error"].endswith(".")


def test_without_json_it_is_written_for_people(tmp_path):
    result = CliRunner().invoke(app, ["inspect", str(written(tmp_path, box(20, 20, 0.3)))])
    assert "thin-wall" in result.stdout
    assert "0.30 mm" in result.stdout


def run(*words):
    result = CliRunner().invoke(app, [str(word) for word in words])
    return result.exit_code, result.stdout, result.stderr


def test_layers_are_told_of_a_file_as_it_lies(tmp_path):
    hanging = concatenated(box(20, 20, 1, at=(50, 60, 70)), ball(2, at=(60, 70, 80)))
    code, said, _ = run("layers", written(tmp_path, hanging), "--printer", "lantern-6", "--json")
    said = json.loads(said)
    assert code == 1
    assert said["layers"] == 240
    assert said["resin_ml"] == pytest.approx((400 + 4 / 3 * 3.1416 * 8) / 1000, rel=0.02)
    assert said["peak_area_mm2"] == pytest.approx(400, rel=0.01)
    (island,) = said["islands"]
    assert island["point"] == pytest.approx([60, 70, 78], abs=0.4)
    assert run("layers", written(tmp_path, box(9, 9, 9), "block.stl"))[0] == 0
    assert run("layers", written(tmp_path, box(9, 9, 9), "block.stl"), "--printer", "none")[0] == 2
    code, said, _ = run("layers", written(tmp_path, hanging))
    assert "island  layer" in said


def released(tmp_path, mesh):
    """A recipe file with its source beside it, and the files of its release."""
    source = written(tmp_path, mesh, "post.stl")
    read = read_file(source)
    own = Credit(source=read.mesh.hash, file="post.stl", terms="own-work")
    recipe = Recipe(steps=(bring_in_step(read, "post.stl"), own, OrientFaces(), CloseHoles()))
    edition = Edition(height=PrintMM(30))
    file = tmp_path / "post_recipe.json"
    file.write_bytes(RecipeFile.of("Post", recipe, edition).to_bytes())
    done = build_figure(recipe, edition, {read.mesh.hash: read.mesh}, of_studio=True)
    return file, {file.name: file.data for file in release_files(CheckedFigure.of("Post", done))}


def test_a_release_is_made_again_from_its_recipe_byte_for_byte(tmp_path):
    whole = box(20, 20, 40)
    file, wanted = released(tmp_path, Mesh(whole.vertices, whole.faces[1:]))
    code, said, _ = run("build", file, "-o", tmp_path / "out")
    assert code == 0
    made = {path.name: path.read_bytes() for path in (tmp_path / "out").iterdir()}
    assert made == wanted
    assert said.count("\n") == len(wanted)
    again = tmp_path / "out" / "post_recipe.json"
    assert run("build", again, "-o", tmp_path / "two", "--source", tmp_path)[0] == 0
    assert {path.name: path.read_bytes() for path in (tmp_path / "two").iterdir()} == wanted


def test_a_recipe_that_cannot_be_followed_is_refused_and_nothing_is_written(tmp_path):
    file, _ = released(tmp_path, box(20, 20, 40))
    good = json.loads(file.read_text("utf-8"))
    wrong = {
        "not at all": "a recipe?",
        "of another kind": json.dumps({**good, "recipe": {"steps": [{"kind": "no-such"}]}}),
        "empty": json.dumps({**good, "recipe": {"steps": []}}),
        "changed": json.dumps({**good, "recipe_sha256": "0" * 64}),
        "for no printer": json.dumps({**good, "edition": {"printer": "none"}}),
    }
    for what, text in wrong.items():
        (tmp_path / "wrong.json").write_text(text, "utf-8")
        code, _, error = run("build", tmp_path / "wrong.json", "-o", tmp_path / "out")
        assert (code, error.count("\n")) == (2, 1), what
    (tmp_path / "post.stl").write_bytes(stl_bytes(ball(3)))
    code, _, error = run("build", file, "-o", tmp_path / "out")
    assert code == 2
    assert "not the file this recipe was made for" in error
    assert run("build", tmp_path / "none.json", "-o", tmp_path / "out")[0] == 2
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize("what", ["printers", "materials", "settings"])
def test_the_bench_can_be_listed(what):
    rows = json.loads(CliRunner().invoke(app, ["bench", what, "--json"]).stdout)
    assert rows and all(row["id"] and row["name"] and not row["retired"] for row in rows)
    assert rows[0]["id"] in CliRunner().invoke(app, ["bench", what]).stdout


def test_every_code_in_the_source_is_in_the_docs_and_the_other_way_round():
    source = Path(__file__).parents[2] / "src" / "ulvet" / "core"
    calls = "\n".join(path.read_text("utf-8") for path in source.rglob("*.py"))
    codes = set(re.findall(r'code="([a-z-]+)"', calls))
    listed = set(re.findall(r"^\| `([a-z-]+)`", (DOCS / "findings.md").read_text("utf-8"), re.MULTILINE))
    assert codes == listed


def test_walls_are_written_as_tints_or_the_reason_why_not(tmp_path):
    figure, out = written(tmp_path, box(20, 20, 0.3)), tmp_path / "walls.zip"
    assert inspect(figure, "--walls", str(out))[0] == 1  # the wall stops, as it would without
    assert zipfile.is_zipfile(out)
    (tmp_path / "folder.zip").mkdir()
    code, said = inspect(figure, "--walls", str(tmp_path / "folder.zip"))
    assert code == 2 and "could not be written" in said["error"]


def test_size_is_worked_out_with_what_becomes_thin(tmp_path):
    path = tmp_path / "post.stl"
    path.write_bytes(stl_bytes(concatenated(box(10, 10, 4), cylinder(0.5, 20, 48, at=(2, 2, 3)))))
    done = asked("size", path, "--json", "--height", 23)
    said = json.loads(done.stdout)
    assert (done.exit_code, said["thin_places"]) == (0, 0)
    assert said["factor"] == pytest.approx(1)
    assert said["size_mm"][2] == pytest.approx(23)
    assert said["smallest_height_mm"] == pytest.approx(10.4, abs=0.4)
    small = asked("size", path, "--json", "--ratio", "1:250", "--real", 1750)
    said = json.loads(small.stdout)
    assert (small.exit_code, said["stopping_places"]) == (1, 1)
    assert said["size_mm"][2] == pytest.approx(7)
    assert json.loads(asked("size", path, "--json", "--match", "10=5").stdout)["factor"] == pytest.approx(0.5)
    assert json.loads(asked("size", path, "--json", "--eye", 28).stdout)["factor"] == pytest.approx(28 / (23 * 14 / 15))
    fit = json.loads(asked("size", path, "--json", "--fit-printer", "lantern-6").stdout)
    assert fit["size_mm"][2] == pytest.approx(165)


@pytest.mark.parametrize(
    "given",
    [
        ("--height", 0), ("--height", -4), ("--height", 5, "--eye", 4), ("--ratio", "0"), ("--ratio", "1:x"),
        ("--match", "1"), ("--match", "0=4"), ("--fit-printer", "none"), ("--percent", "nan"), ("--unit", "ell"),
        ("--base", 3, "--rim", 2),
    ],
)  # fmt: skip
def test_a_size_that_is_none_is_refused_in_one_sentence(clean_stl, given):
    done = asked("size", clean_stl, "--json", *given)
    assert done.exit_code == 2
    assert json.loads(done.stdout)["error"].endswith(".")


def test_a_scan_of_ones_own_file_is_cleaned_to_its_size(tmp_path):
    path, folder, out = tmp_path / "ball.stl", tmp_path / "scan", tmp_path / "out.stl"
    path.write_bytes(stl_bytes(concatenated(ball(15, (0, 0, 30), rounds=4), cylinder(2, 17, 48), cylinder(10, 2, 48))))
    scanned = asked("scan", path, "-o", folder, "--steps", 4, "--tilts", "20", "--json")
    assert scanned.exit_code == 0
    assert json.loads(scanned.stdout)["passes"] == 4
    cleaned = asked("scan-clean", folder, "-o", out, "--json", "--length", "wide=30", "--length", "deep=30")
    said = json.loads(cleaned.stdout)
    assert cleaned.exit_code == 0
    assert said["watertight"]
    assert said["size_mm"][0] == pytest.approx(30, rel=0.005)
    assert said["factor"] == pytest.approx(1, abs=0.005)
    assert said["deviation_mean_mm"] < 0.1
    assert is_watertight(edges_of(read_mesh(out)))
    for wrong in (["--length", "wide"], ["--length", "round=4"], ["--length", "wide=-1"], ["--mount", "-3"]):
        assert asked("scan-clean", folder, "-o", out, *wrong).exit_code == 2
    assert asked("scan-clean", tmp_path, "-o", out).exit_code == 2


@pytest.mark.deep
def test_lengths_that_disagree_are_told_of_a_scan(tmp_path):
    path, folder = tmp_path / "ball.stl", tmp_path / "scan"
    path.write_bytes(stl_bytes(concatenated(ball(15, (0, 0, 30), rounds=4), cylinder(2, 17, 48), cylinder(10, 2, 48))))
    assert asked("scan", path, "-o", folder, "--steps", 4, "--tilts", "20", "--json").exit_code == 0
    lengths = ("--length", "wide=30", "--length", "deep=33")
    doubtful = asked("scan-clean", folder, "-o", tmp_path / "out.stl", "--json", *lengths)
    assert doubtful.exit_code == 1
    assert json.loads(doubtful.stdout)["disagreement"] > 0.04


@pytest.mark.parametrize(
    "given", [("nothing",), ("driftwood", "--tilts", "x"), ("driftwood", "--steps", 1), ("driftwood", "--noise", -1)]
)
def test_a_scan_that_cannot_be_is_refused_and_writes_nothing(tmp_path, given):
    done = asked("scan", *given, "-o", tmp_path / "scan", "--json")
    assert done.exit_code == 2
    assert "error" in json.loads(done.stdout)
    assert not (tmp_path / "scan").exists()


def test_line_ups_and_labels_are_written_at_true_size(clean_stl, tmp_path):
    out = tmp_path / "line.pdf"
    done = asked("lineup", clean_stl, clean_stl, "-o", out, "--heights", "30,15", "--no-hand", "--json")
    said = json.loads(done.stdout)
    assert done.exit_code == 0
    assert [one["height_mm"] for one in said["figures"]] == pytest.approx([30, 15])
    assert out.read_bytes().startswith(b"%PDF")
    assert asked("lineup", clean_stl, "-o", tmp_path / "line.svg").exit_code == 0
    assert asked("label", "--height", 20, "--girth", 90, "-o", tmp_path / "band.pdf").exit_code == 0
    for wrong in (["-o", tmp_path / "line.txt"], ["-o", out, "--heights", "3,4"], ["-o", out, "--heights", "0"],
                  ["-o", out, "--paper", "a99"]):  # fmt: skip
        assert asked("lineup", clean_stl, *wrong).exit_code == 2
    assert asked("label", "--height", 0, "--girth", 90, "-o", out).exit_code == 2
    grown = asked("label", "--height", 20, "--girth", 90, "--grow", 2, "-o", tmp_path / "band.svg")
    assert (grown.exit_code, grown.stdout) == (0, "band.svg: a band 40.0 mm high\n")
    assert "180.0 mm round" in (tmp_path / "band.svg").read_text("utf-8")
    assert asked("label", "--height", 20, "--girth", 90, "--grow", 0, "-o", out).exit_code == 2


def test_a_bench_of_ones_own_is_written_changed_checked_and_used(tmp_path):
    file = tmp_path / "bench.json"
    assert run("bench", "export", file)[0] == 0 and run("bench", "check", file)[0] == 0
    held = json.loads(file.read_text("utf-8"))
    held["printers"][0].update(id="own-box", name="Own box", volume=[10, 10, 10])
    for setting in held["settings"]:
        setting["printer"] = setting["printer"].replace("lantern-6", "own-box")
    file.write_text(json.dumps(held), "utf-8")
    figure = written(tmp_path, box(12, 12, 12))
    code, said = inspect(figure, "--bench", str(file), "--printer", "own-box")
    assert code == 1 and "too-large-for-printer" in {finding["code"] for finding in said["findings"]}
    assert run("bench", "printers", "--bench", file)[1].startswith("own-box")
    held["materials"][0]["density"] = 0
    file.write_text(json.dumps(held), "utf-8")
    code, out, _ = run("bench", "check", file)
    assert code == 1 and "Tough grey resin, density" in out
    assert inspect(figure, "--bench", str(file))[0] == 2
    assert run("bench", "check", tmp_path / "none.json")[0] == 2


def test_a_setting_and_the_material_of_a_part_are_named_on_the_command(tmp_path):
    file = written(tmp_path, box(9, 9, 9), "block.stl")
    code, said = inspect(file, "--setting", "long-reed-300-matt-filament-draft")
    assert (code, said["printer"], said["material"]) == (0, "long-reed-300", "matt-filament")
    fine = inspect(file, "--setting", "long-reed-300-matt-filament")[1]
    assert said["estimate"]["layers"] < fine["estimate"]["layers"]
    clear = inspect(file, "--part-material", "figure=bending-clear")[1]
    assert clear["estimate"]["money"] > inspect(file)[1]["estimate"]["money"]
    for wrong in (["--setting", "none"], ["--part-material", "figure"], ["--part-material", "figure=matt-filament"]):
        code, _, error = run("inspect", file, *wrong)
        assert code == 2 and error.strip().count("\n") == 0 and "Traceback" not in error


def test_a_studio_is_saved_and_loaded_by_the_command(tmp_path):
    from ulvet.store.database import open_database
    from ulvet.store.folder import DataFolder

    open_database(DataFolder(tmp_path / "one").database)
    archive = tmp_path / "studio.zip"
    assert run("save", archive, "--data", tmp_path / "one")[0] == 0
    assert run("load", archive, "--data", tmp_path / "two")[0] == 0
    code, _, error = run("load", archive, "--data", tmp_path / "two")
    assert code == 2 and "holds a studio already" in error
    archive.write_bytes(archive.read_bytes()[:-9])
    code, _, error = run("load", archive, "--data", tmp_path / "three")
    assert code == 2 and "cut off" in error and not (tmp_path / "three" / "studio.sqlite").exists()
    assert run("load", tmp_path / "none.zip", "--data", tmp_path / "three")[0] == 2
    assert run("save", tmp_path / "no-such" / "out.zip", "--data", tmp_path / "one")[0] == 2
