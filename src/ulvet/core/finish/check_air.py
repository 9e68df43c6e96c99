"""Whether the air suits what is painted in it."""

from collections.abc import Iterator, Sequence
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.bench.paints import Paint
from ulvet.core.findings.finding import Finding, Severity
from ulvet.core.finish.amounts import RoleSum, sums_of_paint
from ulvet.core.stations import Station

__all__ = ["Air", "check_air"]


class Air(BaseModel):
    """The air where it is painted, as somebody read it: degrees Celsius, and percent of damp; None where nobody did."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    temperature: Annotated[float, Field(ge=-40, le=60, allow_inf_nan=False)] | None = None
    damp: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] | None = None


def check_air(roles: Sequence[RoleSum], paints: Sequence[Paint], air: Air) -> Iterator[Finding]:
    """Paints of a scheme for which it is too cold or too damp."""
    used = [paint for paint in paints if paint.id in sums_of_paint(roles, paints)]
    if air.temperature is not None:
        cold = [paint for paint in used if air.temperature < paint.least_temperature]
        for paint in sorted(cold, key=lambda one: (-one.least_temperature, one.id)):
            yield Finding(
                code="too-cold", station=Station.FINISH, severity=Severity.CAUTION, part="",
                title=f"{air.temperature:g} °C is too cold for {paint.name}", measured=air.temperature,
                limit=paint.least_temperature, unit="°C", where=None,
                why="It dries badly and may craze or stay soft: warm the room and the paint, or wait. What the label "
                "says goes before this.",
            )  # fmt: skip
    if air.damp is not None:
        for paint in sorted((one for one in used if air.damp > one.most_damp), key=lambda one: (one.most_damp, one.id)):
            yield Finding(
                code="too-damp", station=Station.FINISH, severity=Severity.CAUTION, part="",
                title=f"{air.damp:g} % of damp is too much for {paint.name}", measured=air.damp,
                limit=paint.most_damp, unit="%", where=None,
                why="It may turn milky or run: wait for drier air, or paint elsewhere. What the label says goes before "
                "this.",
            )  # fmt: skip
