"""Proofs for tests, with as little as each needs."""

from datetime import UTC, datetime

from ulvet.core.blob_hash import BlobHash
from ulvet.core.proof.proof import Came, Copy, Length, PrintedPart, PrintForm, Proof, Told
from ulvet.core.recipe.anchors import Anchor

__all__ = ["came", "length", "printed", "proof"]


def printed(
    part="body", mesh="a" * 64, supports=None, factor=1.0, setting="s", up=(0, 0, 1), size=(10, 10, 40), **more
):
    """A part as it was printed."""
    held = None if supports is None else BlobHash(supports)
    form = PrintForm(mesh=BlobHash(mesh), supports=held, factor=factor, up=up, spin=0, lift=0, setting=setting)
    said = {
        "figure": 1, "figure_name": "Ferrywoman", "edition": "e1", "edition_name": "First edition", "revision": 3,
        "build": "b", "part": part, "called": part, "source": "", "form": form, "size_mm": size, "ml": 4.0,
        "seconds": 7_200.0,
    }  # fmt: skip
    return PrintedPart(**(said | more))


def proof(setup, parts=(), told_s=10_000.0, told_ml=20.0, seconds_factor=1.0, peak=None, came=None, named=(), limbs=()):
    """A proof of a setup."""
    return Proof(
        began=datetime(2026, 11, 2, 19, tzinfo=UTC), parts=tuple(parts) or (printed(),), setting=setup.setting.id,
        setting_name=setup.setting.name, printer=setup.printer.id, printer_name=setup.printer.name,
        material=setup.material.id, material_name=setup.material.name, process=setup.process, bench="",
        told=Told(seconds=told_s, ml=told_ml, money=1, layers=800, seconds_factor=seconds_factor, peak_N=peak,
                  limbs=tuple(limbs)),
        named=tuple(named), came=came or Came(),
    )  # fmt: skip


def came(copies=(), **more):
    """What came out, the outcome of each copy of the first part among it."""
    return Came(copies=tuple(Copy(part=0, outcome=one) for one in copies), **more)


def length(drawn, measured, direction, over="outside", name=""):
    """A length by calipers."""
    at = Anchor(point=(0, 0, 0))
    return Length(
        part=0, name=name, begin=at, end=at, drawn=drawn, measured=measured, over=over, direction=tuple(direction)
    )
