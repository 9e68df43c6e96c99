"""Release sets over the API: packed for whom, offered where, reported by buyers, corrected."""

import io
import json
import zipfile

import httpx
import pytest
from PIL import Image

from tests.api.conftest import brought, built, finished, own
from tests.devices import running_shop

EMPTY = {"words": [], "guide": [], "listings": [], "reports": []}
DAY = {"date": "2026-12-24"}


@pytest.fixture
def figure(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    own(client, number)
    return number


def begun(client, figure, **more):
    asked = {
        "name": "Fen folk", "items": [{"figure": figure, "edition": "e1"}],
        "tiers": [{"name": "free"}, {"name": "bought", "items": [0]}], **more,
    }  # fmt: skip
    answer = client.post("/release-sets", json=asked)
    assert answer.status_code == 201, answer.text
    return answer.json()


def entered(client, now, **change):
    answer = client.put(
        f"/release-sets/{now['number']}",
        json={"release": {**now["release"], **change}, "says": "changed"},
        headers={"If-Match": str(now["revision"])},
    )
    assert answer.status_code == 200, answer.text
    return answer.json()


def issued(client, now):
    answer = client.post(f"/release-sets/{now['number']}/issues", json=DAY)
    assert answer.status_code == 202, answer.text
    done = finished(client, answer.json())
    assert done["state"] == "done", done["error"]
    return client.get(f"/release-sets/{now['number']}").json()


def packed(client, now, issue, tier="bought"):
    data = client.get(f"/release-sets/{now['number']}/issues/{issue}/{tier}.zip").content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def taller(client, figure, height):
    page = client.get(f"/figures/{figure}").json()
    body, head = {**page["edition"], "height": height}, {"If-Match": str(page["revision"])}
    assert client.put(f"/figures/{figure}/edition", json=body, headers=head).status_code == 200
    return built(client, figure)


def test_a_set_is_packed_again_and_says_who_needs_it(client, figure):
    now = issued(client, begun(client, figure))
    (issue,) = now["issues"]
    (pack,) = issue["packs"]
    assert (issue["number"], issue["date"], pack["tier"], pack["correction"]) == (1, "2026-12-24", "bought", None)
    assert now["items"][0]["state"] == "not"
    manifest = json.loads(packed(client, now, 1)["manifest.json"])
    assert manifest["items"][0]["proofed_says"].startswith("Not proofed")
    # The same again is the same to the byte, but for its number.
    again = issued(client, now)
    assert again["issues"][0]["packs"][0]["correction"]["items"][0]["state"] == "same"
    taller(client, figure, 25)
    third = issued(client, again)
    (change,) = third["issues"][0]["packs"][0]["correction"]["items"]
    assert (change["state"], change["changed"]) == ("changed", ["figure"])
    assert "print figure again" in json.loads(packed(client, now, 3)["manifest.json"])["changed"][0]
    # What went out before is there as it went out.
    assert json.loads(packed(client, now, 1)["manifest.json"]) == manifest


def test_terms_and_what_is_gone_hold_a_set_back_and_nothing_is_written(client, clean_stl):
    number = brought(client, clean_stl)
    built(client, number)
    now = begun(client, number)
    held = client.post(f"/release-sets/{now['number']}/issues", json=DAY)
    assert held.status_code == 422
    assert "Settle it at Bring in" in held.json()["detail"]
    own(client, number)
    empty = entered(client, now, tiers=[{"name": "bought", "items": []}])
    assert "No tier holds anything" in client.post(f"/release-sets/{now['number']}/issues", json=DAY).json()["detail"]
    entered(client, empty, tiers=now["release"]["tiers"], items=[{"figure": number, "edition": "e77"}])
    gone = client.post(f"/release-sets/{now['number']}/issues", json=DAY)
    assert gone.status_code == 422 and "gone" in gone.json()["detail"]
    assert client.get(f"/release-sets/{now['number']}").json()["issues"] == []


def test_a_set_is_undone_put_away_and_not_overwritten(client, figure):
    now = begun(client, figure)
    named = entered(client, now, name="Reed folk")
    late = client.put(
        f"/release-sets/{now['number']}", json={"release": now["release"], "says": "late"},
        headers={"If-Match": str(now["revision"])},
    )  # fmt: skip
    assert late.status_code == 412 and "nothing was overwritten" in late.json()["detail"]
    head = {"If-Match": str(named["revision"])}
    back = client.post(f"/release-sets/{now['number']}/undo", headers=head).json()
    assert (back["release"]["name"], back["can_undo"], back["can_redo"]) == ("Fen folk", False, True)
    head = {"If-Match": str(back["revision"])}
    assert client.post(f"/release-sets/{now['number']}/redo", headers=head).json()["release"]["name"] == "Reed folk"
    client.delete(f"/release-sets/{now['number']}")
    assert now["number"] not in [one["number"] for one in client.get("/release-sets").json()["sets"]]
    client.post(f"/release-sets/{now['number']}/back")
    assert client.get(f"/figures/{figure}/release-sets").json()["sets"][-1]["release"]["name"] == "Reed folk"


def listed(address, **more):
    return {"shop": "Reed market", "address": address, "tier": "bought", "title": "Fen folk", "price": 4.5, **more}


def published(client, at):
    """The job that has put a listing's pack into its shop, or could not."""
    answer = client.post(f"{at}/publish")
    assert answer.status_code == 202, answer.text
    return finished(client, answer.json())


def test_a_pack_is_offered_replaced_and_reported_on(client, figure, tmp_path):
    with running_shop(tmp_path) as address:
        now = issued(client, entered(client, begun(client, figure), listings=[listed(address)]))
        offer = now["listings"][0]["offer"]
        assert not any(row["done"] for row in now["listings"][0]["rows"])
        at = f"/release-sets/{now['number']}/listings/{offer}"
        offered = published(client, at)["made"]
        assert (offered["issue"], offered["times"]) == (1, 1) and offered["buyers"] > 0
        now = client.get(f"/release-sets/{now['number']}").json()
        assert all(row["done"] for row in now["listings"][0]["rows"])
        held = httpx.get(f"{address}/offers/set-{now['number']}.{offer}").json()
        assert held["sha256"] == now["issues"][0]["packs"][0]["sha256"]
        # Reports come once, however often they are told.
        assert client.post(f"{at}/reports").json() == {"new": 2}
        assert client.post(f"{at}/reports").json() == {"new": 0}
        now = client.get(f"/release-sets/{now['number']}").json()
        report = now["release"]["reports"][0]
        assert report["point"][2] == pytest.approx(15), "the top of the file, in figure mm"
        assert now["items"][0]["reports"] == 2 and now["items"][0]["buyers"] == offered["buyers"]
        # They lie on the figure until they are ended, and go to no other buyer.
        found = [one for one in built(client, figure)["build"]["findings"] if one["code"] == "reported"]
        assert sum(one["measured"] for one in found) == 2
        assert found[0]["where"]["point"][2] == pytest.approx(15) and found[0]["station"] == "release"
        assert "reported" not in [one["code"] for one in now["items"][0]["open"]]
        ending = {"kind": "correction", "says": "It is taller now.", "issue": 2}
        reports = [{**one, "ending": ending} for one in now["release"]["reports"]]
        taller(client, figure, 25)
        now = issued(client, entered(client, now, reports=reports))
        # The list says what is to be replaced where, and nothing else.
        assert {row["what"] for row in now["listings"][0]["rows"] if row["changed"]} == {"file", "pictures", "text"}
        assert published(client, at)["made"]["times"] == 2
        now = client.get(f"/release-sets/{now['number']}").json()
        assert now["release"]["listings"][0]["holds"] == 2
        assert now["joined"][0]["open"] == []
        assert "reported" not in [one["code"] for one in built(client, figure)["build"]["findings"]]
        picture = client.get(f"{at}/picture-0-0.png")
        assert Image.open(io.BytesIO(picture.content)).size == (1200, 1200)
        assert client.get(f"{at}/picture-9-0.png").status_code == 404
    silent = client.post(f"{at}/reports")
    assert silent.status_code == 422 and "does not answer" in silent.json()["detail"]


@pytest.mark.parametrize("seed", [1, *(pytest.param(seed, marks=pytest.mark.deep) for seed in (2, 3))])
def test_a_shop_in_any_mood_gets_a_pack_once(client, figure, tmp_path, seed, monkeypatch):
    with running_shop(tmp_path, seed) as address:
        now = issued(client, entered(client, begun(client, figure), listings=[listed(address)]))
        at = f"/release-sets/{now['number']}/listings/{now['listings'][0]['offer']}"
        for _ in range(6):
            job = published(client, at)
            if job["state"] == "done":
                break
            assert "Nothing here was changed" in job["error"] or "nothing" in job["error"]
        assert job["made"]["times"] == 1
        published(client, at)
        (held,) = (tmp_path / "offers").glob("*.json")
        assert json.loads(held.read_bytes())["times"] == 1
        assert len(list((tmp_path / "packs").iterdir())) == 1


def test_a_report_on_what_never_went_out_is_refused_and_a_shops_is_kept_apart(client, figure, tmp_path):
    now = issued(client, begun(client, figure))
    report = {"id": "typed-1", "came": "2026-12-26", "issue": 4, "item": 0, "says": "It broke."}

    def entering(**more):
        body = {"release": {**now["release"], "reports": [{**report, **more}]}, "says": "a report"}
        head = {"If-Match": str(now["revision"])}
        return client.put(f"/release-sets/{now['number']}", json=body, headers=head)

    assert "no issue 4" in entering().json()["detail"]
    assert "names no item" in entering(issue=1, item=None).json()["detail"]
    assert entering(issue=1).status_code == 200
    with running_shop(tmp_path) as address:
        now = client.get(f"/release-sets/{now['number']}").json()
        now = entered(client, now, listings=[listed(address)])
        offer = now["listings"][0]["offer"]
        published(client, f"/release-sets/{now['number']}/listings/{offer}")
        # The edition that was sold is taken out of the set before its reports come.
        now = client.get(f"/release-sets/{now['number']}").json()
        now = entered(
            client, now, items=[{"figure": figure, "edition": "e1", "mirrored": True}], reports=[],
        )  # fmt: skip
        assert client.post(f"/release-sets/{now['number']}/listings/{offer}/reports").json()["new"] == 2


def test_only_shops_on_this_machine_are_asked(client, figure):
    now = issued(client, entered(client, begun(client, figure), listings=[listed("http://shop.example")]))
    offer = now["listings"][0]["offer"]
    refused = client.post(f"/release-sets/{now['number']}/listings/{offer}/publish")
    assert refused.status_code == 422 and "nothing was sent" in refused.json()["detail"]
    by_hand = entered(client, now, listings=[listed("")])
    refused = client.post(f"/release-sets/{now['number']}/listings/{offer}/publish")
    assert "by hand" in refused.json()["detail"]
    # Ticked by hand it stays ticked.
    rows = by_hand["listings"][0]["rows"]
    ticked = listed("", ticked={row["what"]: row["digest"] for row in rows})
    assert all(row["done"] for row in entered(client, by_hand, listings=[ticked])["listings"][0]["rows"])
