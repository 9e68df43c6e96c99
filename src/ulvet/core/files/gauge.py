"""One file gauged as it lies, without a recipe."""

import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulvet.core.bench.edition import Edition, factor_for
from ulvet.core.bench.limits import WallLimits
from ulvet.core.bench.setup import Setup
from ulvet.core.bring_in.lean import resting_plane_of
from ulvet.core.files.reading import mesh_as_it_lies
from ulvet.core.findings.location import location_in_words
from ulvet.core.gauge.balance.balance import Balance, balance_of
from ulvet.core.gauge.detail.detail import detail_of, least_shown_by
from ulvet.core.gauge.limbs.handling import WeakLimb, weakest_first
from ulvet.core.gauge.walls.kinds import Kind, kinds_of, limit_field, limit_for
from ulvet.core.gauge.walls.place_names import KINDS, places_with_kinds, thin_place_rows
from ulvet.core.gauge.walls.shares import wall_cap, walls_up_to
from ulvet.core.gauge.walls.thickness import Thickness, measure_thickness, straight_walls
from ulvet.core.geometry.mesh import Floats, Mesh, bounds, flipped, scaled, volume
from ulvet.core.geometry.topology import edges_of
from ulvet.core.lengths import FigureMM, spoken

__all__ = ["GaugedFile", "gauge_file"]


@dataclass(frozen=True)
class GaugedFile:
    """What was measured, at print size where the file lies: as plain values, and vertex by vertex."""

    said: dict[str, Any]
    mesh: Mesh
    walls: Floats
    kinds: NDArray[np.int8]
    cap: float

    def field_bytes(self) -> bytes:
        """Vertex by vertex as an NPZ: ``vertices``, ``faces``, ``thickness``, the wall straight through as ``ray``,
        ``kind``, and whether the wall is ``beyond`` the cap."""
        buffer = io.BytesIO()
        np.savez_compressed(
            buffer,
            vertices=self.mesh.vertices,
            faces=self.mesh.faces,
            thickness=np.minimum(self.walls, self.cap),
            ray=straight_walls(self.mesh),
            kind=self.kinds,
            beyond=self.walls > self.cap,
        )
        return buffer.getvalue()


def gauge_file(path: Path, edition: Edition, setup: Setup) -> GaugedFile:
    """A file's walls, handling, balance and detail at print size, in mm from the file's own origin, z up.

    ``thickness`` are shares of the surface that are no thicker; ``beyond`` marks walls over the cap, which are told as
    the cap. Raises UnreadableFile with a text for the user.
    """
    material = setup.material
    mesh = mesh_as_it_lies(path)
    low, high = bounds(mesh)
    mesh = scaled(mesh, factor_for(edition, FigureMM(float(high[2] - low[2]))))
    notes = []
    if volume(mesh) < 0:
        mesh = flipped(mesh)
        notes.append("The surface looks inward; it was measured as if it looked outward. Turn it at Mend.")
    edges = edges_of(mesh)
    if edges.mostly_open:
        notes.append("More than a quarter of all edges is open: there is no wall and no balance. Close it at Mend.")
        thickness, balance, weak, detail = Thickness.unknown(mesh), None, [], None
    else:
        thickness, balance = measure_thickness(mesh), balance_of(mesh, material.density)
        weak, detail = weakest_first(mesh, material), detail_of(mesh, least_shown_by(setup))
        if material.strength is None:
            notes.append(f"Nobody has measured how strong {material.name.lower()} is: what breaks first is not told.")
        if edges.open.any():
            notes.append("The surface is open in places: walls there, balance and handling are not to be relied on.")
        if balance is None:
            notes.append("It encloses no volume, so it has no weight and no balance.")
    cap = wall_cap(setup.walls)
    kinds = kinds_of(mesh, thickness, float(setup.walls.thin_from) * 2)
    n = len(mesh.vertices)
    walls = thickness.walls[:n]
    said = {
        "file": str(path),
        "material": material.id,
        "size_mm": np.ptp(bounds(mesh), axis=0).tolist(),
        "thickness": _shares(thickness, cap),
        "places": _places(mesh, thickness, setup.walls),
        "handling": [_handled(mesh, limb, edition) for limb in weak],
        "balance": _said(mesh, balance),
        "detail": detail and {"share_lost": detail.lost, "shows_at_factor": detail.size},
        "limits_mm": {
            "kinds": {said: _limit(setup, kind) for kind, said in KINDS.items()},
            "cap": cap,
        },
        "use": {"name": str(edition.use), "push_N": edition.use.push},
        "notes": notes,
    }
    return GaugedFile(said, mesh, walls, kinds[:n], cap)


def _shares(thickness: Thickness, cap: float) -> dict[str, float | None]:
    """The least wall, and those that 1, 10 and 50 % of the surface do not exceed, weighed by area."""
    return dict(zip(("min", "p01", "p10", "p50"), walls_up_to(thickness, cap, [0, 0.01, 0.1, 0.5]), strict=True))


def _limit(setup: Setup, kind: Kind) -> dict[str, Any]:
    limit, origin = limit_for(setup.walls, kind), setup.setting.origin_of(f"walls.{limit_field(kind)}")
    return {"stop": float(limit.stop), "caution": float(limit.caution), "origin": str(origin.kind)}


def _places(mesh: Mesh, thickness: Thickness, limits: WallLimits) -> list[dict[str, Any]]:
    places = places_with_kinds(mesh, thickness, limits, 1.0)
    return [
        {
            "name": f"{said.name}, {spoken(said.least_mm)} mm over {spoken(said.extent_mm)} mm",
            **said.model_dump(include={"kind", "least_mm", "extent_mm", "limit_mm", "stops", "point"}),
        }
        for said in thin_place_rows("", mesh, places, 1.0, limits)
    ]


def _handled(mesh: Mesh, limb: WeakLimb, edition: Edition) -> dict[str, Any]:
    low, high = bounds(mesh)
    return {
        "name": f"{location_in_words(limb.tip, low, high)}, "
        f"{spoken(limb.section)} mm at {spoken(limb.lever)} mm from its tip",
        "force_N": limb.force,
        "lever_mm": limb.lever,
        "section_mm": limb.section,
        "point": limb.point.tolist(),
        "tip": limb.tip.tolist(),
        "bends_mm": limb.bends,
        "slips": limb.slips,
        "snaps": limb.force < edition.use.push and not limb.slips,
        "drop_estimate": limb.drop,
    }


def _said(mesh: Mesh, balance: Balance | None) -> dict[str, Any] | None:
    if balance is None:
        return None
    rest = resting_plane_of(Mesh(mesh.vertices - [0, 0, mesh.vertices[:, 2].min()], mesh.faces))
    return {
        "mass_g": balance.mass,
        "com_mm": balance.centre.tolist(),
        "tip_angle_deg": balance.tip_angle,
        "tips_to": balance.tips_to.tolist(),
        "level_deg": rest.degrees if rest else None,
    }
