"""The bench: printers and materials."""

from fastapi import APIRouter

from ulvet.core.bench.materials import MATERIALS, Material
from ulvet.core.bench.printers import PRINTERS, Printer

__all__ = ["router"]

router = APIRouter(prefix="/bench", tags=["bench"])


@router.get("/printers")
def printers() -> list[Printer]:
    """The printers."""
    return list(PRINTERS)


@router.get("/materials")
def materials() -> list[Material]:
    """The materials."""
    return list(MATERIALS)
