"""The bench: printers and materials."""

from fastapi import APIRouter

from ulvet.core.bench.bench import DEFAULT_BENCH
from ulvet.core.bench.materials import Material
from ulvet.core.bench.printers import Printer

__all__ = ["router"]

router = APIRouter(prefix="/bench", tags=["bench"])


@router.get("/printers")
def printers() -> list[Printer]:
    """The printers."""
    return list(DEFAULT_BENCH.printers)


@router.get("/materials")
def materials() -> list[Material]:
    """The materials."""
    return list(DEFAULT_BENCH.materials)
