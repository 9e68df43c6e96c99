"""What the documents say of the code is true."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src/ulvet/core"
PAGES = sorted([*ROOT.glob("docs/*.md"), ROOT / "README.md", ROOT / "CONTRIBUTING.md"])


def test_the_rooms_of_the_core_are_listed():
    text = (ROOT / "docs/architecture.md").read_text("utf-8")
    listed = text.split("<!-- rooms -->")[1].split("```")[1]
    named = {word for line in listed.splitlines() for word in re.split(r"   +", line)[0].split()}
    assert named == {path.parent.name for path in CORE.glob("*/__init__.py")}


def test_the_ten_rules_are_where_they_are_said_to_be():
    text = (ROOT / "docs/architecture.md").read_text("utf-8").split("<!-- rules -->")[1]
    rules = re.findall(r"^\| [^|]+ \| `([\w/]+\.py)` `(\w+)` \|$", text, re.MULTILINE)
    assert len(rules) == 10
    for file, name in rules:
        assert re.search(rf"^ *(def )?{name}\b", (CORE / file).read_text("utf-8"), re.MULTILINE), (file, name)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_every_module_a_document_names_is_there(page):
    named = re.findall(r"`((?:[\w.]+/)*\w+\.(?:py|tsx?))(?:::\w+)?`", page.read_text("utf-8"))
    there = [
        path.as_posix()
        for base in ("src", "tests", "frontend/src", "benchmarks")
        for path in (ROOT / base).rglob("*.*")
    ]
    assert [name for name in named if not any(f"/{name}" in path for path in there)] == []


def test_the_words_name_what_is_there():
    named = re.findall(r"`([\w/.]+)`", (ROOT / "docs/words.md").read_text("utf-8").split("| --- |", 1)[1])
    assert len(named) > 20
    for name in named:
        *module, last = name.split(".")
        path = next((base for base in (CORE, CORE.parent) if (base / name).exists()), None)
        if path is None:
            files = [CORE.joinpath(*module).with_suffix(".py"), CORE.parent.joinpath(*module).with_suffix(".py")]
            text = "".join(file.read_text("utf-8") for file in files if file.exists())
            assert re.search(rf"^class {last}\b", text, re.MULTILINE), name
