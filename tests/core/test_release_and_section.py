import dataclasses
import hashlib
import io
import json
import zipfile

import numpy as np
import pdfplumber
import pytest
import trimesh
from PIL import Image

from tests.kept import build_kept
from tests.shapes import box, concatenated, cylinder
from ulvet.core.bench.edition import Edition
from ulvet.core.bring_in.steps import BringIn
from ulvet.core.build.figure_build import build_figure
from ulvet.core.build.picture import draw_figure
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.walls.thickness import measure_thickness
from ulvet.core.geometry.clustering import cluster_points
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.section import cut_section, plane_through
from ulvet.core.lengths import FigureMM, PrintMM
from ulvet.core.part.key_steps import Key
from ulvet.core.part.order_steps import NamePart
from ulvet.core.part.steps import Cut
from ulvet.core.recipe.runner import Recipe
from ulvet.core.release.checked_figure import CheckedFigure
from ulvet.core.release.names import safe_name
from ulvet.core.release.package import release_files, zip_bytes


def checked(mesh, edition, name="Reed imp"):
    build = build_kept(Recipe(steps=(BringIn(source=mesh.hash, name="x.stl"),)), edition, {mesh.hash: mesh})
    return CheckedFigure.of(name, build)


def test_a_release_holds_the_figure_at_size_and_vouches_for_every_byte():
    figure = checked(
        concatenated(box(20, 10, 40), cylinder(0.2, 20, 24, at=(10, 5, 39))), Edition(height=PrintMM(29.5))
    )
    packed = zip_bytes(release_files(figure))
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        names = archive.namelist()
        assert names == sorted(names)
        files = {name: archive.read(name) for name in names}
    manifest = json.loads(files["reed-imp_manifest.json"])
    assert {f["name"] for f in manifest["files"]} == set(files) - {"reed-imp_manifest.json"}
    for entry in manifest["files"]:
        assert hashlib.sha256(files[entry["name"]]).hexdigest() == entry["sha256"]
    solid = trimesh.load(io.BytesIO(files["reed-imp_29.5mm.stl"]), file_type="stl")
    assert solid.extents == pytest.approx([10, 5, 29.5], rel=1e-5)
    assert solid.bounds[0][2] == pytest.approx(0)
    scene = trimesh.load(io.BytesIO(files["reed-imp_29.5mm.3mf"]), file_type="3mf")
    assert scene.units == "millimeter"
    assert scene.extents == pytest.approx([10, 5, 29.5], rel=1e-5)
    assert list(scene.geometry) == ["figure"]
    assert [f["code"] for f in manifest["open_findings"]] == ["overlapping-shells", "thin-wall", "snap-risk"]
    assert manifest["proofed"].startswith("Not proofed")
    assert any("gloves" in caution for caution in manifest["cautions"])
    recipe = json.loads(files["reed-imp_recipe.json"])
    assert Recipe.model_validate(recipe["recipe"]) == figure.recipe
    assert "thin" not in manifest["figure"]
    assert "Wall 0.20 mm" in files["reed-imp_read-me.txt"].decode()


def test_equal_builds_give_equal_bytes():
    one, two = (zip_bytes(release_files(checked(box(9, 9, 9), Edition()))) for _ in range(2))
    assert one == two


def pdf_text(checked):
    (sheet,) = [file.data for file in release_files(checked) if file.name.endswith("_sheet.pdf")]
    with pdfplumber.open(io.BytesIO(sheet)) as document:
        fonts = {letter["fontname"] for page in document.pages for letter in page.chars}
        return "\n".join(page.extract_text() for page in document.pages), fonts, len(document.pages)


def test_the_sheet_says_what_a_buyer_must_know_in_fonts_it_carries():
    figure = checked(
        concatenated(box(20, 10, 40), cylinder(0.2, 20, 24, at=(10, 5, 39))), Edition(height=PrintMM(29.5))
    )
    text, fonts, pages = pdf_text(figure)
    for said in ("Reed imp", "10.0 x 5.0 x 29.5 mm", "590", "closed", "Wall 0.20 mm", "stops", "gloves", "Not proofed"):
        assert said in text, said
    assert pages == 1
    assert all("+" in font for font in fonts), "a subset of every font is embedded"


def test_whatever_the_figure_is_called_and_however_much_is_open_the_sheet_is_made():
    plain = checked(box(9, 9, 9), Edition())
    for name in ("<b>Heron</b> & <img src='x'/>", "a" * 300, "Vår häger \u2603", "</para>", ""):
        text, _, _ = pdf_text(dataclasses.replace(plain, figure=name))
        assert ("<b>Heron</b> &" in text) == name.startswith("<b>")
    thin = checked(box(9, 9, 0.3), Edition())
    text, _, pages = pdf_text(dataclasses.replace(thin, findings=thin.findings * 90))
    assert "more; the manifest names them all" in text
    assert pages > 1


@pytest.mark.parametrize(
    ("name", "safe"),
    [("Ferrywoman, früh / 2", "ferrywoman-fruh-2"), ("../../etc", "etc"), ("", "figure"), ("\x00\n", "figure"),
     ("a" * 300, "a" * 60)],
)  # fmt: skip
def test_names_are_safe_on_any_disk(name, safe):
    assert safe_name(name) == safe


def test_a_section_is_cut_with_the_solid_on_its_left():
    hollow = concatenated(box(10, 10, 10), Mesh(box(4, 4, 4, at=(3, 3, 3)).vertices, box(1, 1, 1).faces[:, ::-1]))
    plane = plane_through(np.array([5.0, 5, 5]))
    outlines = cut_section(hollow, plane, 20)
    areas = sorted(_signed_area(line) for line in outlines)
    assert areas == pytest.approx([-16, 100])
    assert all(np.array_equal(line[0], line[-1]) for line in outlines)


def test_an_open_surface_leaves_an_open_outline():
    mesh = box(10, 10, 10)
    top = (mesh.vertices[mesh.faces][:, :, 2] == 10).all(axis=1)
    (line,) = cut_section(Mesh(mesh.vertices, mesh.faces[~top]), plane_through(np.array([5.0, 5, 5])), 20)
    assert not np.array_equal(line[0], line[-1])


def test_a_section_elsewhere_is_empty_and_its_window_leaves_out_what_is_far():
    mesh = concatenated(box(1, 1, 1), box(1, 1, 1, at=(50, 0, 0)))
    assert not cut_section(mesh, plane_through(np.array([0.0, 9, 0])), 5)
    assert len(cut_section(mesh, plane_through(np.array([0.5, 0.5, 0.5])), 5)) == 1


def test_the_plane_holds_normal_and_length_even_when_they_are_one():
    plane = plane_through(np.zeros(3), np.array([1.0, 0, 0]), np.array([1.0, 0, 0]))
    assert plane.across @ plane.up == pytest.approx(0)
    assert plane.up == pytest.approx([1, 0, 0])


def test_a_picture_shows_thin_in_blue_and_nothing_beside_the_figure():
    mesh = concatenated(box(20, 20, 20), box(0.3, 20, 20, at=(40, 0, 0)))
    picture = draw_figure(mesh, measure_thickness(mesh), 0.6, height=120)
    assert picture.shape[2] == 4
    assert picture[0, 0, 3] == 0
    solid = picture[picture[..., 3] > 0][:, :3].astype(int)
    assert (solid[:, 2] > solid[:, 0] + 40).any()  # the sheet
    assert (solid[:, 0] > solid[:, 2] + 5).any()  # the block


def test_places_are_told_in_words_and_gathered_within_reach():
    low, high = np.zeros(3), np.full(3, 10.0)
    assert location_in_words(np.array([9.0, 5, 9]), low, high) == "high, right"
    assert location_in_words(np.array([5.0, 1, 0.1]), low, high) == "at the foot, front"
    line = np.stack([np.arange(10.0), np.zeros(10), np.zeros(10)], axis=1)
    assert cluster_points(line, 1.0).tolist() == [0, 0, 1, 1, 2, 2, 3, 3, 4, 4]


def _signed_area(line):
    x, y = line.T
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum() / 2)


def test_a_release_in_parts_names_its_files_and_says_how_it_goes_together():
    mesh = box(14, 12, 30)
    steps = (
        BringIn(source=mesh.hash, name="post.stl"), Cut(offset=FigureMM(15.0)), Key(cut=2),
        NamePart(scope="figure.2-upper", title="Lamp / top"),
    )  # fmt: skip
    build = build_figure(Recipe(steps=steps), Edition(), {mesh.hash: mesh})
    files = {file.name: file.data for file in release_files(CheckedFigure.of("Post", build))}
    stl = sorted(name for name in files if name.endswith(".stl"))
    assert stl == ["post_30.0mm_lamp-top.stl", "post_30.0mm_lower-figure.stl"]
    picture = Image.open(io.BytesIO(files["post_30.0mm_pulled-apart.png"]))
    assert max(picture.size) > 800 and np.asarray(picture)[..., 3].any(axis=1).mean() > 0.9
    said = files["post_read-me.txt"].decode()
    assert "1. lower figure, laid ready\n2. Lamp / top: two-part glue on" in said
