"""The commands of proofs: coupons, what they teach, and a plate on a printer."""

import json

import pytest

from tests.cli.conftest import asked
from tests.devices import running_printer
from tests.shapes import box, concatenated
from ulvet.core.formats.stl import read_back, stl_bytes
from ulvet.core.geometry.topology import edges_of, is_watertight


def told(tmp_path, said):
    path = tmp_path / "coupons.json"
    path.write_text(said if isinstance(said, str) else json.dumps(said), "utf-8")
    return path


@pytest.fixture
def setting(tmp_path):
    done = asked("coupon", "fit", "-o", tmp_path / "fit.stl", "--json")
    return json.loads(done.stdout)["setting"]


def test_a_coupon_is_written_with_what_is_read_from_it(tmp_path):
    done = asked("coupon", "walls", "-o", tmp_path / "walls.stl", "--json")
    said = json.loads(done.stdout)
    assert done.exit_code == 0
    assert is_watertight(edges_of(read_back((tmp_path / "walls.stl").read_bytes())))
    assert {"name": "20", "kind": "pin", "mm": 0.2}.items() <= next(
        one for one in said["features"] if one["kind"] == "pin"
    ).items()


def test_an_unknown_setting_is_refused_and_nothing_written(tmp_path):
    done = asked("coupon", "fit", "-o", tmp_path / "fit.stl", "--setting", "no-such")
    assert done.exit_code == 2
    assert not (tmp_path / "fit.stl").exists()


def test_what_coupons_teach_is_told_with_ranges(tmp_path, setting):
    coupons = [{"coupon": "fit", "setting": setting, "press": gap} for gap in (0.06, 0.08, 0.06)]
    done = asked("learn", told(tmp_path, coupons), "--json")
    (press,) = json.loads(done.stdout)["learnt"]
    assert (done.exit_code, press["path"], press["count"]) == (0, "fits.press", 3)
    assert press["low"] < press["value"] < press["high"]
    spoken = asked("learn", told(tmp_path, coupons[0]))
    assert "gap that is pressed in: 0.05 mm" in spoken.stdout


@pytest.mark.parametrize(
    ("said", "why"),
    [
        ("no json", "is not what was read from coupons"),
        ([{"coupon": "fit", "setting": "SETTING", "press": -1}], "greater than 0"),
        ([{"coupon": "fit", "setting": "SETTING", "press": 0.07}], "no gap of 0.07 mm"),
        ([{"coupon": "measure", "setting": "SETTING", "lengths": {"Q": 4}}], "no length Q"),
        ([{"coupon": "walls", "setting": "no-such", "pin": 0.4}], "no-such"),
    ],
)
def test_what_was_read_wrongly_is_refused_by_name(tmp_path, setting, said, why):
    text = said if isinstance(said, str) else json.dumps(said).replace("SETTING", setting)
    done = asked("learn", told(tmp_path, text), "--json")
    assert done.exit_code == 2
    assert why in json.loads(done.stdout)["error"]


def test_a_plate_is_printed_and_what_failed_is_told(tmp_path):
    plates = {"sound": box(20, 20, 4), "held by nothing": concatenated(box(20, 20, 6), box(4, 4, 4, at=(30, 0, 2)))}
    with running_printer() as address:
        for (name, mesh), code in zip(plates.items(), (0, 1), strict=True):
            path = tmp_path / f"{name}.stl"
            path.write_bytes(stl_bytes(mesh))
            done = asked("proof", path, "--printer", address, "--json")
            said = json.loads(done.stdout)
            assert (done.exit_code, said["state"]) == (code, "done")
            assert [event["kind"] for event in said["events"]] == ["island"] * code
    gone = asked("proof", path, "--printer", address)
    assert gone.exit_code == 2
    assert "does not answer" in gone.stderr
