"""Adjacency, against the plainest possible computation of the same."""

from collections import Counter, defaultdict

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import of_all
from tests.shapes import ball, box, concatenated, cylinder, tube
from ulvet.core.geometry.mesh import Mesh
from ulvet.core.geometry.topology import (
    connected_groups,
    edges_of,
    face_shells,
    is_watertight,
    paired_faces,
    without_collapsed_faces,
)

FACES = st.lists(st.lists(st.integers(0, 6), min_size=3, max_size=3, unique=True), min_size=1, max_size=14)


def mesh_of(faces):
    return Mesh(np.random.default_rng(0).normal(size=(7, 3)), np.array(faces, np.int32))


def half_edges(faces):
    return [(face[k], face[(k + 1) % 3]) for face in faces for k in range(3)]


@given(FACES)
@settings(max_examples=of_all(150), deadline=None)
def test_uses_and_balance_of_every_edge_are_those_counted_by_hand(faces):
    uses = Counter(tuple(sorted(edge)) for edge in half_edges(faces))
    balance = Counter()
    for a, b in half_edges(faces):
        balance[tuple(sorted((a, b)))] += 1 if a < b else -1
    edges = edges_of(mesh_of(faces))
    counted = {tuple(map(int, ends)): int(n) for ends, n in zip(edges.ends, edges.uses, strict=True)}
    assert counted == uses
    assert {tuple(map(int, e)): int(b) for e, b in zip(edges.ends, edges.balance, strict=True)} == balance
    assert is_watertight(edges) == (all(n % 2 == 0 for n in uses.values()) and not any(balance.values()))


@given(FACES)
@settings(max_examples=of_all(150), deadline=None)
def test_shells_are_the_faces_that_can_be_reached_over_edges_of_two(faces):
    by_edge = defaultdict(list)
    for k, face in enumerate(faces):
        for i in range(3):
            by_edge[tuple(sorted((face[i], face[(i + 1) % 3])))].append(k)
    neighbours = [set() for _ in faces]
    for members in by_edge.values():
        if len(members) == 2:
            neighbours[members[0]].add(members[1])
            neighbours[members[1]].add(members[0])
    label, count = [-1] * len(faces), 0
    for k in range(len(faces)):
        if label[k] < 0:
            reached = [k]
            while reached:
                face = reached.pop()
                if label[face] < 0:
                    label[face] = count
                    reached += neighbours[face]
            count += 1
    mesh = mesh_of(faces)
    found, shells = face_shells(mesh, edges_of(mesh))
    assert (found, shells.tolist()) == (count, label)


def test_pairs_agree_where_two_faces_pass_their_edge_in_opposite_directions():
    mesh = box(1, 1, 1)
    pairs, agree = paired_faces(edges_of(mesh))
    assert len(pairs) == 18
    assert agree.all()
    turned = Mesh(mesh.vertices, np.concatenate([mesh.faces[:1, ::-1], mesh.faces[1:]]))
    pairs, agree = paired_faces(edges_of(turned))
    assert sorted(pairs[~agree].min(axis=1).tolist()) == [0, 0, 0]


def test_groups_are_numbered_by_their_first_member_whatever_the_order_of_pairs():
    count, group = connected_groups(6, np.array([[5, 1], [4, 3]]))
    assert (count, group.tolist()) == (4, [0, 1, 2, 3, 3, 1])
    count, group = connected_groups(3, np.empty((0, 2), np.int64))
    assert (count, group.tolist()) == (3, [0, 1, 2])


def test_shells_of_what_is_joined_are_as_many_as_there_were():
    mesh = concatenated(box(1, 1, 1), ball(1, at=(5, 0, 0)), tube(3, 2, 4), cylinder(1, 2, at=(9, 9, 9)))
    count, shells = face_shells(mesh, edges_of(mesh))
    assert count == 4
    assert shells[0] == 0
    assert np.bincount(shells).tolist() == [12, 2048, 768, 256]


def test_faces_that_repeat_a_vertex_are_left_out_and_the_rest_is_the_same_object():
    whole = box(1, 1, 1)
    assert without_collapsed_faces(whole) is whole
    pinched = Mesh(whole.vertices, np.concatenate([whole.faces, [[0, 0, 1], [2, 3, 2]]]).astype(np.int32))
    assert np.array_equal(without_collapsed_faces(pinched).faces, whole.faces)


def test_nothing_is_neither_watertight_nor_a_shell():
    nothing = Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32))
    assert not is_watertight(edges_of(nothing))
    assert face_shells(nothing, edges_of(nothing))[0] == 0
