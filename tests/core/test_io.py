import numpy as np
import pytest
import trimesh
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import BAD, TRIANGLE, ball, binary_stl, box, concatenated
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.formats.read import read_mesh
from ulvet.core.formats.stl import stl_bytes
from ulvet.core.geometry.mesh import Mesh, volume
from ulvet.core.geometry.topology import edges_of, is_watertight


@pytest.mark.parametrize("ending", ["stl", "obj", "ascii"])
def test_every_format_is_read_as_an_independent_library_writes_it(tmp_path, ending):
    mesh = concatenated(ball(10), box(4, 5, 6, at=(20, 0, 0)))
    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    path = tmp_path / f"figure.{'obj' if ending == 'obj' else 'stl'}"
    theirs.export(path, file_type="stl_ascii" if ending == "ascii" else ending)
    read = read_mesh(path)
    assert len(read.vertices) == len(mesh.vertices)
    assert len(read.faces) == len(mesh.faces)
    assert volume(read) == pytest.approx(volume(mesh), rel=1e-6)
    assert is_watertight(edges_of(read))


def test_what_is_written_is_read_by_an_independent_library(tmp_path):
    mesh = ball(7)
    path = tmp_path / "out.stl"
    path.write_bytes(stl_bytes(mesh))
    theirs = trimesh.load(path)
    assert theirs.is_watertight
    assert theirs.volume == pytest.approx(volume(mesh), rel=1e-6)


@pytest.mark.parametrize("ending", ["stl", "obj", "ply"])
def test_a_text_far_from_the_origin_keeps_its_small_shapes(tmp_path, ending):
    """A thousand metres off, where single precision has steps of 0.06 mm."""
    mesh = ball(0.1, (1e6, -1e6, 1e6))
    points = [f"{x:.7f} {y:.7f} {z:.7f}\n" for x, y, z in mesh.vertices]
    if ending == "stl":
        facets = ("".join("vertex " + points[k] for k in face) for face in mesh.faces)
        whole = (f"facet normal 0 0 0\nouter loop\n{facet}endloop\nendfacet\n" for facet in facets)
        text = "solid far\n" + "".join(whole) + "endsolid far\n"
    elif ending == "obj":
        text = "".join("v " + point for point in points) + "".join(f"f {a} {b} {c}\n" for a, b, c in mesh.faces + 1)
    else:
        head = f"ply\nformat ascii 1.0\nelement vertex {len(points)}\n"
        head += "".join(f"property double {axis}\n" for axis in "xyz")
        head += f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\nend_header\n"
        text = head + "".join(points) + "".join(f"3 {a} {b} {c}\n" for a, b, c in mesh.faces)
    path = tmp_path / f"far.{ending}"
    path.write_text(text, "utf-8")
    read = read_mesh(path)
    assert (len(read.vertices), len(read.faces)) == (len(mesh.vertices), len(mesh.faces))
    assert is_watertight(edges_of(read))
    assert np.abs(np.sort(read.vertices, axis=0) - np.sort(mesh.vertices, axis=0)).max() < 1e-6


def test_a_binary_file_may_begin_with_solid(tmp_path):
    path = tmp_path / "liar.stl"
    path.write_bytes(binary_stl([TRIANGLE]))
    assert len(read_mesh(path).faces) == 1


def test_plus_and_minus_zero_are_one_place(tmp_path):
    path = tmp_path / "zeros.stl"
    path.write_bytes(binary_stl([[[0.0, 0, 0], [1, 0, 0], [0, 1, 0]], [[-0.0, 0, 0], [0, 1, 0], [-1, 0, 0]]]))
    mesh = read_mesh(path)
    assert len(mesh.vertices) == 4
    assert not np.signbit(mesh.vertices[mesh.vertices == 0]).any()


def test_obj_polygons_references_and_line_ends(tmp_path):
    path = tmp_path / "all.obj"
    path.write_bytes(
        b"# a square in every spelling\r\nmtllib no.mtl\r\nv 0 0 0 1.0\r\n  v 1 0 0\r\n"
        b"v 1 1 0 0.5 0.5 0.5\r\nv 0 1 0\r\n"
        b"vt 0 0\r\nvn 0 0 1\r\nf 1/1/1 2//1 3 \\\r\n 4/1\r\nf -4 -3 -2\r\nv 9 9 9\r\n"
    )
    mesh = read_mesh(path)
    assert mesh.faces.tolist() == [[0, 1, 2], [0, 2, 3], [0, 1, 2]]
    assert len(mesh.vertices) == 4  # the vertex that no face uses does not count towards the size


@pytest.mark.parametrize("name", BAD)
def test_a_bad_file_is_refused_with_a_sentence_that_says_why(tmp_path, name):
    content, why = BAD[name]
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match=why) as refusal:
        read_mesh(path)
    assert "Traceback" not in str(refusal.value)
    assert any(word in str(refusal.value) for word in ("again", "rename", "export"))  # what to do


def test_a_missing_file_is_refused(tmp_path):
    with pytest.raises(UnreadableFile, match="could not be opened"):
        read_mesh(tmp_path / "gone.stl")


@settings(max_examples=of_all(150), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data(), ending=st.sampled_from(["stl", "obj"]))
def test_damaged_files_give_a_mesh_or_a_sentence(tmp_path, data, ending):
    whole = binary_stl([TRIANGLE] * 3) if data.draw(st.booleans()) else b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n" * 3
    damaged = bytearray(whole)
    for _ in range(data.draw(st.integers(1, 6))):
        damaged[data.draw(st.integers(0, len(damaged) - 1))] = data.draw(st.integers(0, 255))
    path = tmp_path / f"damaged.{ending}"
    path.write_bytes(bytes(damaged[: data.draw(st.integers(1, len(damaged)))]))
    try:
        assert isinstance(read_mesh(path), Mesh)
    except UnreadableFile as refusal:
        assert str(refusal)


@settings(max_examples=of_all(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(points=st.lists(st.tuples(*[st.sampled_from([0.0, -0.0, 1.5, 1.5000001, -2.25, 1e-30])] * 9), min_size=1))
def test_welding_joins_what_is_equal_and_nothing_else(tmp_path, points):
    corners = np.array(points, np.float32).reshape(-1, 3)
    path = tmp_path / "weld.stl"
    path.write_bytes(binary_stl(corners.reshape(-1, 3, 3)))
    if not np.ptp(corners, axis=0).any():
        return
    mesh = read_mesh(path)
    assert np.array_equal(mesh.vertices[mesh.faces.ravel()], corners.astype(float))
    assert len(mesh.vertices) == len(np.unique(corners + 0.0, axis=0))
