"""A simulated turntable scanner: it casts rays at an object from every pose, and errs the way such devices do."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from ulvet.core.geometry.mesh import Mesh, Points, bounds
from ulvet.core.geometry.rays import Rays
from ulvet.core.progress import Progress, no_progress
from ulvet.core.scan.fusion import fuse_points, pitch_for, without_outliers
from ulvet.core.scan.registration import register_passes
from ulvet.core.sources.scan import NothingToFuse, Pass, Scan, turned_about

__all__ = ["DEVICE", "LARGEST_MM", "SMALLEST_MM", "CannotScan", "ScanSettings", "scan_object"]

DEVICE = "Tarn turntable scanner (simulated)"
SMALLEST_MM, LARGEST_MM = 15.0, 300.0
"""Longest sides (mm) of objects that the turntable takes."""
_BASELINE = np.radians(18.0)  # between what projects and what sees, so that it casts shadows
_GRAZING = 0.22  # cosine below which the light is lost
_ACROSS = 330
"""Pixels along the sensor's side."""
_OUTLIERS = 0.003
"""Share of points that stray."""
_STRAY = 0.12
"""How far they stray, of the object's size."""
_LEAST_POINTS = 500
"""Points without which a scan has failed."""
_ROOM = np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]])  # the device counts y as up
_WHERE = np.array([4.0, -31.0, 420.0])


class CannotScan(ValueError):
    """An object or settings the device refuses; its text is for the user."""


class ScanSettings(BaseModel):
    """How an object is scanned. All numbers are bench defaults of the stand-in."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    steps: int = Field(default=8, ge=3, le=72)
    """Stops of the turntable in one round."""
    tilts: tuple[float, ...] = Field(default=(8.0, 34.0, 62.0), min_length=1, max_length=8)
    """How steeply it looks down, degrees; one round each."""
    distance: float = Field(default=420.0, ge=200, le=900)
    """From the middle of the object, mm."""
    noise: float = Field(default=0.05, ge=0, le=2)
    """Standard deviation along the line of sight, mm."""
    seed: int = 7


@dataclass(frozen=True)
class _Errors:
    """What this scan's calibration is wrong by."""

    angle: Points
    table: Points
    axis: Points
    looks: Points
    shifts: Points


def scan_object(
    mesh: Mesh, settings: ScanSettings = ScanSettings(), progress: Progress = no_progress
) -> tuple[Scan, Mesh]:
    """Scan an object that stands on the turntable, in mm, z up, lowest point on it: the passes, and the surface the
    device makes of them by its turntable alone.

    Every pass sees what both its lamp and its camera reach, at no grazing angle, off by noise along the line of
    sight, with a few strays; the turntable's angle and the calibration are a little wrong. Equal settings give equal
    scans.

    Raises CannotScan.
    """
    size = np.ptp(bounds(mesh), axis=0) if len(mesh.faces) else np.zeros(3)
    longest = float(size.max())
    if not len(mesh.faces) or longest <= 0:
        raise CannotScan("There is nothing on the turntable: put an object there and scan again.")
    if not SMALLEST_MM <= longest <= LARGEST_MM:
        raise CannotScan(
            f"The object is {longest:.1f} mm long, and this scanner sees objects from {SMALLEST_MM:.0f} to "
            f"{LARGEST_MM:.0f} mm: nothing was scanned; choose another object or scanner."
        )
    if any(not -5 <= tilt <= 85 for tilt in settings.tilts):
        raise CannotScan("The scanner tilts from -5 to 85 degrees: give tilts in between.")
    low, high = bounds(mesh)
    stood = Mesh(mesh.vertices - [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]], mesh.faces)
    passes = []
    count = len(settings.tilts) * settings.steps
    for number, one in enumerate(_passes(stood, settings)):
        progress(0.8 * number / count, f"pass {number + 1} of {count}")
        passes.append(one)
    errors = _errors(settings)
    scan = Scan(
        tuple(passes),
        _ROOM @ errors.table + _WHERE,
        _ROOM @ errors.axis,
        settings.noise,
        DEVICE,
    )
    if scan.count < _LEAST_POINTS:
        raise CannotScan(
            f"Only {scan.count:,} points were seen, too few for a surface: look from other tilts, or in more steps."
        )
    progress(0.85, "fusing as the device does")
    return scan, _fused_by_device(scan)


def _fused_by_device(scan: Scan) -> Mesh:
    brought = register_passes(scan, refine=False)
    pitch = 1.4 * pitch_for(brought.points)
    points, normals, _ = without_outliers(brought.points, brought.normals, pitch)
    try:
        return fuse_points(points, normals, pitch)
    except NothingToFuse as error:
        raise CannotScan(f"Of this scan {error}: look from more tilts, or in more steps.") from error


def _errors(settings: ScanSettings) -> _Errors:
    dice = np.random.default_rng(settings.seed)
    tilts = len(settings.tilts)
    axis = np.array([*dice.normal(0, 0.002, 2), 1.0])
    return _Errors(
        angle=dice.normal(0, 0.12, (tilts, settings.steps)),
        table=np.array([*dice.normal(0, 0.25, 2), 0.0]),
        axis=axis / np.linalg.norm(axis),
        looks=dice.normal(0, 0.1, (tilts, 2)),
        shifts=dice.normal(0, 0.12, (tilts, 3)),
    )


def _passes(stood: Mesh, settings: ScanSettings) -> Iterator[Pass]:
    rays = Rays(stood)
    low, high = bounds(stood)
    middle = (low + high) / 2
    reach = float(np.linalg.norm(high - low)) / 2
    errors = _errors(settings)
    dice = np.random.default_rng(settings.seed + 1)
    for row, tilt in enumerate(settings.tilts):
        for step in range(settings.steps):
            angle = 360.0 * step / settings.steps
            real = turned_about(np.array([0.0, 0, 1]), angle + errors.angle[row, step])
            # The object turns and the scanner stays, which is the same as the scanner going round the other way.
            seen = _look(rays, middle, reach, real, tilt, settings, dice)
            points, normals = seen[0] @ real.T, seen[1] @ real.T
            wrong = turned_about(np.array([1.0, 0, 0]), errors.looks[row, 0]) @ turned_about(
                np.array([0.0, 1, 0]), errors.looks[row, 1]
            )
            points = points @ wrong.T + errors.shifts[row]
            yield Pass(points @ _ROOM.T + _WHERE, normals @ wrong.T @ _ROOM.T, angle, tilt)


def _look(
    rays: Rays,
    middle: Points,
    reach: float,
    turn: Points,
    tilt: float,
    settings: ScanSettings,
    dice: np.random.Generator,
) -> tuple[Points, Points]:
    """What one look sees, in the object's own axes: points and normals (n, 3)."""

    def eye_at(aside: float) -> Points:
        lean = np.radians(tilt)
        out = np.array([np.sin(aside) * np.cos(lean), -np.cos(aside) * np.cos(lean), np.sin(lean)])
        return middle + settings.distance * (out @ turn)

    eye, lamp = eye_at(0.0), eye_at(float(_BASELINE))
    forward = (middle - eye) / np.linalg.norm(middle - eye)
    side = np.cross(forward, np.array([0.0, 0, 1]))
    side /= np.linalg.norm(side)
    up = np.cross(side, forward)
    steps = (np.arange(_ACROSS) + 0.5) / _ACROSS * 2 - 1
    across, down = np.meshgrid(steps, steps)
    ways = forward * settings.distance + (across[..., None] * side - down[..., None] * up) * reach
    ways = (ways / np.linalg.norm(ways, axis=-1, keepdims=True)).reshape(-1, 3)
    far, face = rays.first(np.tile(eye, (len(ways), 1)), ways)
    met = np.flatnonzero(face >= 0)
    at, normal = eye + far[met, None] * ways[met], rays.normals[face[met]]
    to_lamp = lamp - at
    to_lamp /= np.linalg.norm(to_lamp, axis=1, keepdims=True)
    bright = np.einsum("ij,ij->i", normal, to_lamp) > _GRAZING
    bright &= -np.einsum("ij,ij->i", normal, ways[met]) > _GRAZING
    met, at, to_lamp, normal = met[bright], at[bright], to_lamp[bright], normal[bright]
    lit = rays.first(at + normal * 10 * rays.grain, to_lamp)[1] < 0
    met, at = met[lit], at[lit]
    at = at + dice.normal(0, settings.noise, len(at))[:, None] * ways[met]
    grid = np.full((_ACROSS * _ACROSS, 3), np.nan)
    grid[met] = at
    normals = _normals(grid.reshape(_ACROSS, _ACROSS, 3), 2 * reach / _ACROSS).reshape(-1, 3)[met]
    normals *= np.where(np.einsum("ij,ij->i", normals, ways[met]) > 0, -1.0, 1.0)[:, None]
    stray = dice.random(len(at)) < _OUTLIERS
    at[stray] += (dice.uniform(-_STRAY, _STRAY, stray.sum()) * 2 * reach)[:, None] * ways[met][stray]
    whole = np.isfinite(normals).all(axis=1)
    return at[whole], normals[whole]


def _normals(grid: Points, pixel: float) -> Points:
    """Normals of a grid of points (r, c, 3) from those two beside each; none where they are not there or far off."""
    spread = 2
    padded = np.pad(grid, ((spread, spread), (spread, spread), (0, 0)), constant_values=np.nan)
    rows, columns = grid.shape[:2]

    def beside(dr: int, dc: int) -> Points:
        return padded[spread + dr : spread + dr + rows, spread + dc : spread + dc + columns]

    across = beside(0, spread) - beside(0, -spread)
    down = beside(spread, 0) - beside(-spread, 0)
    far = 12 * spread * pixel
    normal = np.cross(across, down)
    length = np.linalg.norm(normal, axis=-1, keepdims=True)
    broken = (np.linalg.norm(across, axis=-1) > far) | (np.linalg.norm(down, axis=-1) > far)
    normal = normal / np.where(length > 0, length, np.nan)
    normal[broken] = np.nan
    return np.asarray(normal)
