"""Records of builds as they lie in the database, those of earlier versions brought forward."""

from typing import Any

from pydantic import ValidationError

from ulvet.core.bench.edition import brought_forward as edition_brought_forward
from ulvet.core.recipe.reading import brought_forward
from ulvet.store.models import BuildRow
from ulvet.work.record import BuildRecord

__all__ = ["read_record"]


def read_record(row: BuildRow | None) -> BuildRecord | None:
    """The record in a row; one that another version of Ulvet wrote, and this cannot read, counts as absent."""
    try:
        return BuildRecord.model_validate(_brought_forward(row.record)) if row else None
    except (ValidationError, KeyError, TypeError):
        return None


def _brought_forward(held: dict[str, Any]) -> dict[str, Any]:
    """A record as this version writes it."""
    if held.get("version", 0) < 1:
        held = _with_ids(held)
    if held["version"] < 2:
        # What is held in blobs since then cannot be made of a record: it comes with the next check.
        parts = [{**part, "soundings": None} for part in held["parts"]]
        held = {**held, "version": 2, "measured": None, "parts": parts}
    if held["version"] < 3:
        held = _with_settings(held)
    if held["version"] < 4:
        none = {"spaces": [], "openings": [], "left_ml": 0.0, "inside_display": None}
        held = {**held, "version": 4, "inserts": [], "parts": [{**part, **none} for part in held["parts"]]}
    if held["version"] < 5:
        parts = [
            {**part, "fits": [], "facts": {**part["facts"], "called": part["facts"]["part"]}} for part in held["parts"]
        ]
        held = {**held, "version": 5, "assembly": {}, "exploded": None, "parts": parts}
    return held


def _with_settings(held: dict[str, Any]) -> dict[str, Any]:
    """Before version 3 an edition named a printer and a material, and a step no version of its recipe since."""
    findings = [
        {**finding, "remedies": [{**remedy, "change": _of_setting(remedy["change"])} for remedy in finding["remedies"]]}
        for finding in held["findings"]
    ]
    steps = [{**said, "step": _step(said["step"], 2)} for said in held["steps"]]
    return {**held, "version": 3, "steps": steps, "findings": findings}


def _of_setting(change: dict[str, Any]) -> dict[str, Any]:
    if "edition" in change:
        return {**change, "edition": edition_brought_forward(change["edition"])}
    return {**change, "steps": [_step(step, 2) for step in change["steps"]]} if "steps" in change else change


def _with_ids(held: dict[str, Any]) -> dict[str, Any]:
    """Before version 1 a step's kind lay beside its other fields, it had no id, and one that turns the figure said
    which side shows."""
    steps = [
        {**said, "step": _step({**said["values"], "kind": said["kind"], "on": said["on"], "id": number})}
        for number, said in enumerate(held["steps"], 1)
    ]
    findings = [
        {**finding, "remedies": [{**remedy, "change": _change(remedy["change"])} for remedy in finding["remedies"]]}
        for finding in held["findings"]
    ]
    return {**held, "version": 1, "steps": steps, "findings": findings}


def _change(change: dict[str, Any]) -> dict[str, Any]:
    return {**change, "steps": [_step(step) for step in change["steps"]]} if "steps" in change else change


def _step(step: dict[str, Any], version: int = 0) -> dict[str, Any]:
    """A step by itself as this version writes it, from a recipe of an earlier one."""
    return {**brought_forward({"version": version, "steps": [step]})["steps"][-1], "id": step.get("id", 0)}
