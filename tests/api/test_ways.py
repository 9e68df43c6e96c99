"""Ways to stand, and layers as pictures, over the API."""

import io
import json
import zipfile

import pytest

from tests.api.conftest import brought, built, finished


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    return number


def test_ways_are_weighed_each_with_its_picture(client, figure):
    key = client.get(f"/figures/{figure}").json()["build"]["key"]
    asked = client.post(f"/figures/{figure}/ways", json={"build": key, "part": "figure"})
    told = client.get(f"/ways/{finished(client, asked.json())['made']['ways']}").json()
    ways = [one["way"] for one in told["ways"]]
    # How it stands now comes first, and no two are alike.
    assert ways[0]["up"] == [0, 0, 1]
    assert len({way["name"] for way in ways}) == len(ways) >= 2
    flat = next(way for way in ways if way["name"] == "Upright")
    assert flat["on_plate"] and flat["contacts"] == flat["trapped"] == 0
    assert flat["height_mm"] == pytest.approx(15, abs=0.1)
    for one in told["ways"]:
        assert client.get(f"/blobs/{one['picture']}").content.startswith(b"\x89PNG")


def test_ways_of_another_build_or_part_are_not_weighed(client, figure):
    key = client.get(f"/figures/{figure}").json()["build"]["key"]
    for wrong in ({"build": "0" * 64, "part": "figure"}, {"build": key, "part": "wing"}):
        assert client.post(f"/figures/{figure}/ways", json=wrong).status_code == 404
    assert client.get("/ways/none").status_code == 404


def test_layers_are_had_as_pictures_of_a_part_that_is_there(client, figure):
    answer = client.get(f"/figures/{figure}/parts/0/layers.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as packed:
        said = json.loads(packed.read("layers.json"))
        assert len(packed.namelist()) == said["layers"] + 1
    estimate = client.get(f"/figures/{figure}").json()["build"]["parts"][0]["estimate"]
    assert said["layers"] == estimate["layers"]
    assert said["begins_s"][-1] == pytest.approx(estimate["seconds"])
    assert client.get(f"/figures/{figure}/parts/7/layers.zip").status_code == 404
