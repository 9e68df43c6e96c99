"""PLY, 3MF, GLB and packed figures: in and out, each against a library that Ulvet does not use for it."""

import base64
import io
import json
import locale
import struct
import subprocess
import warnings
import zipfile
import zlib
from pathlib import Path

import lib3mf
import meshio
import numpy as np
import pygltflib
import pytest
import trimesh
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import ball, box, concatenated
from ulvet.core.files.inspection import bring_in_step
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.glb import glb_bytes
from ulvet.core.formats.ply import ply_bytes
from ulvet.core.formats.read import MOST_BYTES, read_file, read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.formats.threemf import threemf_bytes
from ulvet.core.geometry.mesh import Mesh, bounds, volume
from ulvet.core.geometry.topology import edges_of, face_shells, is_watertight

FRONT_END = Path(__file__).parents[2] / "frontend"
PARTS = [("heron", ball(6, rounds=3)), ('punt & "otter" <2>', box(8, 3, 2, at=(10, 0, 0)))]
WRITERS = {
    ".ply": lambda: ply_bytes(PARTS[0][1]),
    ".3mf": lambda: threemf_bytes(PARTS),
    ".glb": lambda: glb_bytes(PARTS),
}


@pytest.fixture(autouse=True)
def _locale_kept():
    # The reference library, which some tests use by itself, puts the process into the C locale.
    before = locale.setlocale(locale.LC_ALL)
    yield
    locale.setlocale(locale.LC_ALL, before)


def kept(tmp_path, name, content):
    path = tmp_path / name
    path.write_bytes(content)
    return path


@pytest.mark.parametrize("ending", WRITERS)
def test_what_is_written_is_read_back_whole_and_twice_the_same(tmp_path, ending):
    content = WRITERS[ending]()
    assert content == WRITERS[ending]()
    before = locale.setlocale(locale.LC_ALL)
    read = read_file(kept(tmp_path, f"figure{ending}", content))
    assert locale.setlocale(locale.LC_ALL) == before, "a library changed how this process reads text"
    wanted = PARTS[0][1] if ending == ".ply" else concatenated(*(mesh for _, mesh in PARTS))
    step = bring_in_step(read, "figure")
    parts = step.run((), {"sources": read.meshes}).parts
    assert [part.name for part in parts] == (["figure"] if ending == ".ply" else [name for name, _ in PARTS])
    placed = concatenated(*(part.mesh for part in parts))
    assert is_watertight(edges_of(placed))
    assert volume(placed) == pytest.approx(volume(wanted), rel=1e-5)
    assert np.ptp(bounds(placed), axis=0) == pytest.approx(np.ptp(bounds(wanted), axis=0), rel=1e-5)
    if ending != ".ply":
        assert not step.doubt, "the file says its unit"


def test_a_written_ply_is_read_by_an_independent_library(tmp_path):
    data = meshio.read(kept(tmp_path, "x.ply", ply_bytes(PARTS[0][1])))
    assert np.array_equal(data.cells_dict["triangle"], PARTS[0][1].faces)
    assert data.points == pytest.approx(PARTS[0][1].vertices, abs=1e-6)


def test_a_written_3mf_is_taken_by_the_reference_library_without_a_warning(tmp_path):
    path = kept(tmp_path, "figure.3mf", threemf_bytes(PARTS))
    model = lib3mf.Wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromFile(str(path))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    objects = model.GetMeshObjects()
    names = []
    while objects.MoveNext():
        thing = objects.GetCurrentMeshObject()
        assert thing.IsManifoldAndOriented()
        names.append(thing.GetName())
    assert names == [name for name, _ in PARTS]


def test_a_written_glb_is_read_by_an_independent_library():
    document = pygltflib.GLTF2.load_from_bytes(glb_bytes(PARTS))
    assert [node.name for node in document.nodes] == [name for name, _ in PARTS]
    binary = document.binary_blob()
    for (_, mesh), thing in zip(PARTS, document.meshes, strict=True):
        accessor = document.accessors[thing.primitives[0].attributes.POSITION]
        view = document.bufferViews[accessor.bufferView]
        points = np.frombuffer(binary, "<f4", accessor.count * 3, view.byteOffset).reshape(-1, 3)
        assert points.min(axis=0).tolist() == pytest.approx(accessor.min)
        # Metres, y up, and still the right way round: x stays, z rises along y.
        assert points[:, 0] * 1000 == pytest.approx(mesh.vertices[:, 0], abs=1e-4)
        assert points[:, 1] * 1000 == pytest.approx(mesh.vertices[:, 2], abs=1e-4)
        assert view.byteOffset % 4 == 0


def test_plys_of_others_are_read_in_text_and_in_either_byte_order(tmp_path):
    mesh = box(4, 5, 6)
    rows = [" ".join(map(repr, map(float, v))) for v in mesh.vertices] + [f"3 {a} {b} {c}" for a, b, c in mesh.faces]
    bodies = {"ascii": "\n".join(rows).encode()}
    for name, sign in (("binary_little_endian", "<"), ("binary_big_endian", ">")):
        faces = b"".join(struct.pack(f"{sign}B3i", 3, *map(int, face)) for face in mesh.faces)
        bodies[name] = mesh.vertices.astype(f"{sign}f4").tobytes() + faces
    for name, body in bodies.items():
        head = PLY_HEAD.format(f"{name} 1.0", 8, 12).encode()
        assert volume(read_mesh(kept(tmp_path, "x.ply", head + body))) == pytest.approx(120), name


@pytest.mark.parametrize(("unit", "mm"), [("MicroMeter", 0.001), ("CentiMeter", 10), ("Inch", 25.4), ("Foot", 304.8)])
def test_a_3mf_is_read_in_its_unit_with_its_components_placed(tmp_path, unit, mm):
    wrapper = lib3mf.Wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(getattr(lib3mf.ModelUnit, unit))
    cube = model.AddMeshObject()
    mesh = box(1, 2, 3)
    cube.SetGeometry(
        [lib3mf.Position((lib3mf.ctypes.c_float * 3)(*map(float, v))) for v in mesh.vertices],
        [lib3mf.Triangle((lib3mf.ctypes.c_uint32 * 3)(*map(int, f))) for f in mesh.faces],
    )
    pair = model.AddComponentsObject()
    pair.AddComponent(cube, wrapper.GetIdentityTransform())
    pair.AddComponent(cube, wrapper.GetTranslationTransform(10, 0, 0))
    model.AddBuildItem(pair, wrapper.GetTranslationTransform(0, 5, 0))
    mirrored = wrapper.GetScaleTransform(-1, 1, 1)
    model.AddBuildItem(cube, mirrored)
    path = tmp_path / "pair.3mf"
    model.QueryWriter("3mf").WriteToFile(str(path))
    read = read_file(path)
    assert (read.unit, read.up) == ("mm", "z")
    low, high = bounds(read.mesh)
    assert low == pytest.approx(np.array([-1, 0, 0]) * mm)
    assert high == pytest.approx(np.array([11, 7, 3]) * mm)
    assert face_shells(read.mesh, edges_of(read.mesh))[0] == 3
    assert volume(read.mesh) == pytest.approx(3 * 6 * mm**3)  # the mirrored one is not inside out


def test_a_glb_is_read_with_its_nodes_placed(tmp_path):
    scene = trimesh.Scene()
    cube = trimesh.Trimesh(*_arrays(box(1, 1, 1)), process=False)
    scene.add_geometry(cube, node_name="one")
    turn = trimesh.transformations.rotation_matrix(np.pi / 2, [0, 0, 1]) @ np.diag([2, 1, 1, 1.0])
    turn[:3, 3] = [5, 0, 0]
    scene.add_geometry(cube, node_name="two", transform=turn)
    read = read_file(kept(tmp_path, "x.glb", scene.export(file_type="glb")))
    assert (read.unit, read.up) == ("m", "y")
    low, high = bounds(read.mesh)
    assert (low.tolist(), high.tolist()) == (pytest.approx([0, 0, 0]), pytest.approx([5, 2, 1]))
    assert volume(read.mesh) == pytest.approx(3)


def test_a_packed_figure_is_read_whatever_lies_beside_it_and_wherever_it_points(tmp_path):
    corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
    obj = f"mtllib ../../../etc/passwd\nusemtl x\n{corners}"
    path = tmp_path / "figure.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("../../escape/figure.obj", obj)
        archive.writestr("textures/skin.png", b"\x89PNG none")
        archive.writestr("__MACOSX/._figure.obj", b"")
    assert volume(read_mesh(path)) == pytest.approx(1 / 6)
    assert [p.name for p in tmp_path.iterdir()] == ["figure.zip"]


def _arrays(mesh):
    return mesh.vertices, mesh.faces


def _zip(members, **more):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, **more) as archive:
        for name, content in members:
            archive.writestr(name, content)
    return out.getvalue()


def _3mf(model):
    kinds = (
        '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" '
        'ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" '
        'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
    )
    points = (
        '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r" '
        'Target="/3D/3dmodel.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
    )
    return _zip([("[Content_Types].xml", kinds), ("_rels/.rels", points), ("3D/3dmodel.model", model)])


def _model(inside, before=""):
    return (
        f'<?xml version="1.0"?>{before}<model unit="millimeter" '
        f'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">{inside}</model>'
    )


TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/>'
    '<vertex x="0" y="0" z="1"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh>'
)


def _doubling(levels):
    """Every object places the one before twice: 2 ** levels tetrahedra from a few lines."""
    objects = [f'<object id="1" type="model">{TETRA}</object>']
    for k in range(2, levels + 2):
        twice = f'<component objectid="{k - 1}"/>' * 2
        objects.append(f'<object id="{k}" type="model"><components>{twice}</components></object>')
    return f'<resources>{"".join(objects)}</resources><build><item objectid="{levels + 1}"/></build>'


def _glb(said, binary=b""):
    text = json.dumps(said).encode()
    text += b" " * (-len(text) % 4)
    rest = struct.pack("<II", len(binary), 0x004E4942) + binary
    return struct.pack("<4sIIII", b"glTF", 2, 20 + len(text) + len(rest), len(text), 0x4E4F534A) + text + rest


LAUGHS = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]>'
PLY_HEAD = (
    "ply\nformat {}\nelement vertex {}\nproperty float x\nproperty float y\nproperty float z\nelement face {}\n"
    "property list uchar int vertex_indices\nend_header\n"
)
TRIANGLE = PLY_HEAD.format("ascii 1.0", 3, 1)
NOWHERE = {"asset": {"version": "2.0"}, "buffers": [{"uri": "../../etc/passwd", "byteLength": 9}]}


def _nodes(nodes):
    """A GLB of one triangle whose nodes hang together as told."""
    return _glb(
        {
            "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": nodes,
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}],
            "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 36}], "buffers": [{"byteLength": 36}],
        },
        struct.pack("<9f", 0, 0, 0, 1, 0, 0, 0, 1, 0),
    )  # fmt: skip


HOSTILE = {
    "text.ply": (b"not a ply at all", "begin like a PLY"),
    "boast.ply": (PLY_HEAD.format("binary_little_endian 1.0", 10**12, 1).encode(), "promises"),
    "boast-text.ply": (PLY_HEAD.format("ascii 1.0", 3, 10**12).encode(), "promises"),
    "minus.ply": (PLY_HEAD.format("ascii 1.0", -3, 1).encode(), "counts in no numbers"),
    "cut.ply": (ply_bytes(ball(3, rounds=2))[:-50], "damaged|cut off"),
    "range.ply": ((TRIANGLE + "0 0 0\n1 0 0\n0 1 0\n3 0 1 9\n").encode(), "points to a corner|damaged"),
    "nan.ply": ((TRIANGLE + "nan 0 0\n1 0 0\n0 1 0\n3 0 1 2\n").encode(), "not numbers|damaged"),
    "points.ply": (PLY_HEAD.format("ascii 1.0", 3, 0).encode() + b"0 0 0\n1 0 0\n0 1 0\n", "no faces"),
    "cut.glb": (glb_bytes(PARTS)[:-40], "cut off"),
    "text.glb": (b"glTF but no more", "cut off or no GLB"),
    "list.glb": (_glb([1, 2]), "no GLB"),
    "outside.glb": (_glb(NOWHERE), "other files"),
    "circle.glb": (_nodes([{"children": [1]}, {"children": [0], "mesh": 0}]), "damaged|no faces"),
    "beyond.glb": (
        _glb(
            {
                "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0}],
                "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
                "accessors": [{"bufferView": 0, "componentType": 5126, "count": 10**9, "type": "VEC3"}],
                "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": 12 * 10**9}],
                "buffers": [{"byteLength": 12}],
            },
            b"\0" * 12,
        ),
        "damaged",
    ),
    "text.3mf": (b"this is no archive", "damaged"),
    "hollow.3mf": (_zip([("readme.txt", "nothing")]), "damaged"),
    "laughs.3mf": (_3mf(_model(_doubling(1), LAUGHS)), "document type"),
    "laughs-wide.3mf": (_3mf(_model(_doubling(1), LAUGHS).encode("utf-16")), "document type"),
    "doubling.3mf": (_3mf(_model(_doubling(31))), "so often or so deep"),
    "deep.3mf": (_3mf(_model(_doubling(60))), "so often or so deep"),
    "bomb.3mf": (_zip([("3D/3dmodel.model", b"\0" * 30_000_000)] * 1), "damaged"),
    "none.zip": (_zip([("notes.txt", "hello")]), "no figure"),
    "two.zip": (_zip([("a.obj", "v 0 0 0"), ("b.stl", "solid")]), "2 figures"),
    "bad-inside.zip": (_zip([("a.stl", "nothing here")]), "In bad-inside.zip: figure.stl"),
    "nested.zip": (_zip([("a.zip", _zip([("b.obj", "v 0 0 0")]))]), "no figure"),
    "many.zip": (_zip([(f"{k}.txt", "") for k in range(2001)]), "2,001 files"),
    "cut.zip": (_zip([("a.stl", stl_bytes(box(1, 1, 1)))])[:-30], "damaged"),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_not_to_be_trusted_is_refused_with_a_sentence(tmp_path, name):
    content, said = HOSTILE[name]
    with warnings.catch_warnings(), pytest.raises(UnreadableFile, match=said) as refusal:
        warnings.simplefilter("ignore")
        read_mesh(kept(tmp_path, name, content))
    assert str(refusal.value).endswith(".")
    assert str(tmp_path) not in str(refusal.value)


def test_a_bomb_is_counted_and_never_unpacked(tmp_path, monkeypatch):
    monkeypatch.setattr("ulvet.core.formats.archive.MOST_UNPACKED", 5_000_000)
    bomb = kept(tmp_path, "bomb.zip", _zip([("figure.stl", b"\0" * 20_000_000)]))
    assert bomb.stat().st_size < 100_000
    with pytest.raises(UnreadableFile, match="was not unpacked"):
        read_mesh(bomb)
    # One whose directory says little: the bytes themselves are counted.
    content = bomb.read_bytes()
    small = (1000).to_bytes(4, "little")
    liar = kept(tmp_path, "liar.zip", content.replace((20_000_000).to_bytes(4, "little"), small))
    with pytest.raises(UnreadableFile):
        read_mesh(liar)
    # XML takes several times its bytes to read, so less of it is taken on.
    monkeypatch.setattr("ulvet.core.formats.threemf.MOST_UNPACKED_XML", 1_000_000)
    model = b"<model>" + b'<vertex x="1" y="2" z="3"/>' * 50_000
    with pytest.raises(UnreadableFile, match="was not unpacked"):
        read_mesh(kept(tmp_path, "bomb.3mf", _zip([("3D/3dmodel.model", model)])))


def test_components_are_counted_across_the_pieces_a_model_is_read_in(tmp_path, monkeypatch):
    monkeypatch.setattr("ulvet.core.formats.archive._CHUNK", 64)
    name, (content, said) = next(item for item in HOSTILE.items() if item[0].endswith(".3mf") and "often" in item[1][1])
    with pytest.raises(UnreadableFile, match=said):
        read_mesh(kept(tmp_path, name, content))


@given(st.sampled_from(sorted(WRITERS)), st.data())
@settings(max_examples=of_all(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_damaged_files_of_every_kind_give_a_mesh_or_a_sentence(tmp_path, ending, data):
    content = bytearray(WRITERS[ending]())
    for _ in range(data.draw(st.integers(1, 6))):
        content[data.draw(st.integers(0, len(content) - 1))] = data.draw(st.integers(0, 255))
    del content[data.draw(st.integers(len(content) // 2, len(content))) :]
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            mesh = read_mesh(kept(tmp_path, f"damaged{ending}", bytes(content)))
        except UnreadableFile as refusal:
            assert str(refusal).endswith(".")
        else:
            assert isinstance(mesh, Mesh)


def test_a_written_glb_passes_the_validator_without_a_word(tmp_path):
    path = kept(tmp_path, "figure.glb", glb_bytes(PARTS))
    script = (
        "require('gltf-validator').validateBytes(new Uint8Array(require('fs').readFileSync(process.argv[1])))"
        ".then(said => console.log(JSON.stringify(said.issues)))"
    )
    run = subprocess.run(["node", "-e", script, str(path)], cwd=FRONT_END, capture_output=True, text=True, check=True)
    issues = json.loads(run.stdout)
    assert issues["messages"] == [], issues


def test_a_picture_of_a_billion_pixels_in_a_scene_is_not_unfolded(tmp_path):
    plain = glb_bytes(PARTS)
    document = pygltflib.GLTF2.load_from_bytes(plain)
    head = struct.pack(">IIBBBBB", 40_000, 40_000, 8, 2, 0, 0, 0)
    chunk = b"IHDR" + head
    picture = b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk))
    uri = "data:image/png;base64," + base64.b64encode(picture).decode()
    document.images = [pygltflib.Image(uri=uri)]
    document.textures = [pygltflib.Texture(source=0)]
    read = read_file(kept(tmp_path, "painted.glb", b"".join(document.save_to_bytes())))
    assert len(read.mesh.faces) == sum(len(mesh.faces) for _, mesh in PARTS)


def test_larger_files_than_can_be_read_are_refused_before_they_are(tmp_path):
    path = tmp_path / "huge.stl"
    with path.open("wb") as file:
        file.truncate(MOST_BYTES + 1)  # takes no room on the disk
    with pytest.raises(UnreadableFile, match=r"more than 1\.5 GB are not read"):
        read_file(path)


def test_a_heap_of_dust_is_refused_and_a_thousand_bits_are_not(tmp_path, monkeypatch):
    bits = stl_bytes(concatenated(*[box(1, 1, 1, at=(2 * k, 0, 0)) for k in range(1000)]))
    path = kept(tmp_path, "dust.stl", bits)
    assert len(read_mesh(path).faces) == 12_000
    monkeypatch.setattr("ulvet.core.formats.read.MOST_SHELLS", 999)
    with pytest.raises(UnreadableFile, match="1,000 separate shells"):
        read_mesh(path)
    monkeypatch.setattr("ulvet.core.formats.read.MOST_SHELLS", 1000)
    assert len(read_mesh(path).faces) == 12_000
