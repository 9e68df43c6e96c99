"""Acts at the station Release, as more than one walk makes them."""

import io
import re
import zipfile

import httpx
from playwright.sync_api import expect

from tests.e2e.conftest import act
from ulvet.api.guard import WRITE_HEADER

HEAD = {WRITE_HEADER: "test"}


def record(served, step):
    page = httpx.get(f"{served}/api/figures/1", timeout=30).json()
    head = {**HEAD, "If-Match": str(page["revision"])}
    answer = httpx.post(f"{served}/api/figures/1/record", json={"step": step, "says": "said"}, headers=head, timeout=60)
    assert answer.status_code == 200, answer.text


def packed(served, issue, tier):
    data = httpx.get(f"{served}/api/release-sets/1/issues/{issue}/{tier}.zip", timeout=60).content
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}, data


def words_for_all(page):
    act(page, "Say a word to buyers")
    for field in page.get_by_label("What buyers are told of").all():
        field.fill("Known, and tried.")
    page.get_by_role("button", name="Keep the words").click()
    expect(page.get_by_role("button", name="Keep the words")).to_have_count(0)


def pack(page, number, patience=120_000):
    act(page, "Pack an issue")
    page.get_by_label("The day it is of").fill("2026-12-24")
    page.get_by_role("button", name=f"Pack issue {number}").click()
    expect(page.get_by_role("button", name=f"Pack issue {number + 1}")).to_be_visible(timeout=patience)
    page.keyboard.press("Escape")


def offer(page, address):
    act(page, "Offer it in shops")
    page.get_by_label("Shop", exact=True).fill("Reed market")
    page.get_by_label("Address, of a shop on this machine").fill(address)
    page.get_by_role("button", name="List it there").click()
    page.get_by_role("button", name="Publish it there").click()
    expect(page.get_by_role("checkbox", name="file", exact=True)).to_be_checked()
    page.get_by_role("button", name="Bring buyers and reports back").click()
    page.keyboard.press("Escape")
    # What buyers report stands over the set, and, once the figure is looked at again, among its findings.
    expect(page.get_by_role("heading", name=re.compile("reports? to answer|buyers? of")).first).to_be_visible()


def answer(page, sentence, others=0):
    """End what is reported with a sentence in the guide, where so many other things wait."""
    act(page, "Take in what buyers report")
    page.get_by_label("It ends in").click()
    page.get_by_role("option", name="a sentence in the guide").click()
    page.get_by_label("The sentence").fill(sentence)
    page.get_by_role("button", name="End th").click()
    if others:
        expect(page.get_by_label("The sentence")).to_have_value("")
    else:
        expect(page.get_by_role("button", name="End th")).to_have_count(0)
    page.keyboard.press("Escape")
