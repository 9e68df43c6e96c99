"""Whether the air suits what is painted in it."""

from collections.abc import Iterator, Sequence
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.paints import Paint
from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.finish.amounts import RoleSum, sums_of_paint
from ulvet.core.stations import Station

__all__ = ["Air", "check_air"]


_OF_PAINT: dict[str, Any] = {"station": Station.FINISH, "severity": Severity.CAUTION, "part": "", "where": None}


class Air(BaseModel):
    """The air where it is painted, as somebody read it: degrees Celsius, and percent of damp; None where nobody did."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    temperature: Annotated[float, Field(ge=-40, le=60, allow_inf_nan=False)] | None = None
    damp: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] | None = None


def check_air(roles: Sequence[RoleSum], paints: Sequence[Paint], air: Air) -> Iterator[Finding]:
    """Paints of a scheme for which it is too cold or too damp."""
    used = [paint for paint in paints if paint.id in sums_of_paint(roles, paints)]
    for paint in sorted(used, key=lambda one: one.id):
        if air.temperature is not None and air.temperature < paint.least_temperature:
            yield Finding(
                code="too-cold", title=f"{air.temperature:g} °C is too cold for {paint.name}",
                measured=air.temperature, limit=paint.least_temperature, unit="°C", **_OF_PAINT,
                why="It dries badly and may craze or stay soft: warm the room and the paint, or wait. What the label "
                "says goes before this.",
            )  # fmt: skip
        if air.damp is not None and air.damp > paint.most_damp:
            yield Finding(
                code="too-damp", title=f"{air.damp:g} % of damp is too much for {paint.name}", measured=air.damp,
                limit=paint.most_damp, unit="%", **_OF_PAINT,
                why="It may turn milky or run: wait for drier air, or paint elsewhere. What the label says goes before "
                "this.",
            )  # fmt: skip
