"""The two kinds of length: those that grow with the figure and those that stay in millimetres.

Every length in a step or an edition is one of the two, so that the runner knows what to scale.
"""

from typing import Any, Self

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

__all__ = ["FigureMM", "Millimetres", "PrintMM", "spoken"]


class Millimetres(float):
    """A finite length in mm; the base of the two kinds, never used as a kind itself."""

    __slots__ = ()

    @classmethod
    def __get_pydantic_core_schema__(cls, source: type[Any], handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(
            cls,
            core_schema.float_schema(allow_inf_nan=False),
            serialization=core_schema.plain_serializer_function_ser_schema(
                float, return_schema=core_schema.float_schema()
            ),
        )

    def __repr__(self) -> str:
        return f"{type(self).__name__}({float(self)!r})"


class FigureMM(Millimetres):
    """A length on the figure, in mm of the source; it grows with the figure."""

    __slots__ = ()

    def printed(self, factor: float) -> "PrintMM":
        """This length at print size.

        >>> FigureMM(40).printed(0.5)
        PrintMM(20.0)
        """
        return PrintMM(self * factor)


class PrintMM(Millimetres):
    """A length in the print, in mm whatever the size: walls, gaps, tips, layers, pixels."""

    __slots__ = ()

    def in_figure(self, factor: float) -> FigureMM:
        """The figure length that prints as this one.

        >>> PrintMM(0.6).in_figure(0.5)
        FigureMM(1.2)
        """
        return FigureMM(self / factor)

    @classmethod
    def least(cls, *lengths: float) -> Self:
        """The smallest of several print lengths."""
        return cls(min(lengths))


def spoken(mm: float) -> str:
    """A length with the digits that can be believed and seen: 0.31, 4.2, 75.0, 312.

    >>> spoken(0.3149), spoken(4.21), spoken(75), spoken(312.4)
    ('0.31', '4.2', '75.0', '312')
    """
    if abs(mm) < 1:
        return f"{mm:.2f}"
    return f"{mm:.1f}" if abs(mm) < 200 else f"{mm:.0f}"
