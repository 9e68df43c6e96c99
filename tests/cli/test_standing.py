"""The command that stands and holds a figure, with ways to choose from and acts by hand."""

import json

import pytest

from tests.cli.conftest import asked
from tests.shapes import box, concatenated, cylinder
from ulvet.core.files.layer_pictures import read_layer_archive
from ulvet.core.formats.stl import stl_bytes

TABLE = concatenated(box(30, 24, 3, at=(-15, -12, 20)), cylinder(3, 21))


@pytest.fixture
def table(tmp_path):
    path = tmp_path / "table.stl"
    path.write_bytes(stl_bytes(TABLE))
    return path


def stood(path, *more):
    done = asked("stand", path, "-o", path.with_name("held.stl"), "--orient", "keep", "--json", *more)
    return done.exit_code, json.loads(done.output.splitlines()[0])


def test_acts_by_hand_in_a_file_are_done_and_told(table):
    _, before = stood(table)
    first = before["contacts"][len(before["contacts"]) // 2]
    assert {"point", "normal", "tip_mm", "load_N", "reachable"} <= first.keys()
    x, y, _ = first["point"]
    acts = table.with_name("acts.json")
    places = [{"point": [x, y, 20]}, {"point": [x, y, 90]}]
    said = {"places": places, "acts": [{"does": "take", "place": 0}, {"does": "add", "place": 1}]}
    acts.write_text(json.dumps(said), "utf-8")
    code, after = stood(table, "--acts", acts)
    assert code == 0
    assert len(after["contacts"]) == len(before["contacts"]) - 1
    assert after["places_lost"] == [1]
    assert after["trapped_supports"] == sum(not one["reachable"] for one in after["contacts"])
    assert after["cleanup_min"] < before["cleanup_min"]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("no json", "no file of acts"),
        ('{"acts": [{"does": "shave", "place": 0}], "places": [{"point": [0, 0, 0]}]}', "acts.0.does"),
        ('{"acts": [{"does": "add", "place": 3}]}', "place that was not picked"),
    ],
)
def test_a_file_that_is_none_of_acts_is_refused_and_nothing_written(table, text, says):
    acts = table.with_name("acts.json")
    acts.write_text(text, "utf-8")
    code, said = stood(table, "--acts", acts)
    assert code == 2
    assert says in said["error"]
    assert not table.with_name("held.stl").exists()


def test_a_way_is_taken_of_those_that_are_weighed(table):
    out = table.with_name("held.stl")
    done = asked("stand", table, "-o", out, "--way", "2", "--show-side", "auto", "--json")
    said = json.loads(done.output)
    ways = said["candidates"]
    assert 2 <= len(ways) <= 6
    assert "Upright" in [way["name"] for way in ways]
    assert said["up"] == pytest.approx(ways[1]["up"])
    assert said["chosen"] == 2
    refused = asked("stand", table, "-o", out, "--way", "9", "--json")
    assert refused.exit_code == 2
    assert "no way 9" in json.loads(refused.output.splitlines()[0])["error"]


def test_layers_are_written_as_pictures_that_read_back(table):
    out = table.with_name("layers.zip")
    done = asked("layers", table, "--stack", out, "--json")
    said = json.loads(done.output)
    stack = read_layer_archive(out)
    assert stack.count == said["layers"]
    assert stack.areas.max() == pytest.approx(said["peak_area_mm2"])
