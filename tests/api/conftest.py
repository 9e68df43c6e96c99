import time

import httpx
import pytest

from ulvet.api.guard import WRITE_HEADER

PATIENCE = 4800
"""Looks at a job, 0.05 s apart: four minutes, since machines are busy."""


@pytest.fixture
def client(served):
    with httpx.Client(base_url=f"{served}/api", timeout=60, headers={WRITE_HEADER: "test"}) as client:
        yield client


def finished(client, job):
    for _ in range(PATIENCE):
        job = client.get(f"/jobs/{job['id']}").json()
        if job["state"] not in ("queued", "running"):
            return job
        time.sleep(0.05)
    raise AssertionError("the job did not end")


def brought(client, path):
    answer = client.post("/figures", params={"file_name": path.name}, content=path.read_bytes())
    assert answer.status_code == 202
    return finished(client, answer.json())["made"]["figure"]


def built(client, figure):
    page = client.get(f"/figures/{figure}").json()
    if page["build"] is None:
        finished(client, page["job"])
        page = client.get(f"/figures/{figure}").json()
    return page


def own(client, figure):
    """Say that a figure is its sculptor's own work, without which nothing is released."""
    recipe = client.get(f"/figures/{figure}/recipe.json").json()["recipe"]
    step = {"kind": "credit", "source": recipe["steps"][0]["source"], "terms": "own-work"}
    page = client.get(f"/figures/{figure}").json()
    head = {"If-Match": str(page["revision"])}
    body = {"step": step, "says": "my own"}
    assert client.post(f"/figures/{figure}/record", json=body, headers=head).status_code == 200
    return built(client, figure)


FORM = {"kind": "add-form", "name": "fin", "form": "box", "wide": 4, "deep": 2, "tall": 6, "group": "fins"}


def change(client, figure, verb, path, **body):
    seen = client.get(f"/figures/{figure}").json()["revision"]
    return client.request(verb, f"/figures/{figure}{path}", json=body, headers={"If-Match": str(seen)})


def steps(client, figure):
    return client.get(f"/figures/{figure}/recipe.json").json()["recipe"]["steps"]
