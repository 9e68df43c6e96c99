"""What a scanner delivers: passes of points, and what it knows of its turntable."""

import hashlib
import io
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ulvet.core.geometry.mesh import Points

__all__ = ["NothingToFuse", "Pass", "Scan", "turned_about"]


class NothingToFuse(ValueError):
    """Points of which no surface can be made; its text is for the user."""


@dataclass(frozen=True)
class Pass:
    """One look of the scanner, in its own room, mm: ``points`` and ``normals`` (n, 3), which look towards it.

    ``angle`` is how far the turntable had turned, ``tilt`` how steeply the scanner looked down, both in degrees as the
    device counts them.
    """

    points: Points
    normals: Points
    angle: float
    tilt: float


@dataclass(frozen=True)
class Scan:
    """All passes of one object. The turntable is a plane through ``table`` (3,) that turns about ``axis`` (3,), which
    points away from the ground; ``noise`` is what the device says it errs by, mm."""

    passes: tuple[Pass, ...]
    table: Points
    axis: Points
    noise: float
    device: str

    @property
    def count(self) -> int:
        """Points of all passes."""
        return sum(len(one.points) for one in self.passes)

    def at_zero(self, number: int) -> tuple[Points, Points]:
        """Points and normals of a pass turned back to where the turntable began, as the device counts."""
        one = self.passes[number]
        turn = turned_about(self.axis, -one.angle)
        return (one.points - self.table) @ turn.T + self.table, one.normals @ turn.T

    def to_bytes(self) -> bytes:
        """All of it, to be read by ``from_bytes``; equal scans give equal bytes."""
        buffer = io.BytesIO()
        sizes = np.array([len(one.points) for one in self.passes], np.int64)
        poses = np.array([(one.angle, one.tilt) for one in self.passes], float)
        text = np.frombuffer(self.device.encode(), np.uint8)
        np.savez(
            buffer,
            points=np.concatenate([one.points for one in self.passes]).astype("<f4"),
            normals=np.concatenate([one.normals for one in self.passes]).astype("<f4"),
            sizes=sizes,
            poses=poses,
            table=np.array([*self.table, *self.axis, self.noise]),
            device=text,
        )
        return buffer.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes | memoryview) -> "Scan":
        """The scan of ``to_bytes``."""
        with np.load(io.BytesIO(data), allow_pickle=False) as held:
            ends = np.cumsum(held["sizes"])[:-1]
            points = np.split(held["points"].astype(float), ends)
            normals = np.split(held["normals"].astype(float), ends)
            table = held["table"]
            passes = tuple(
                Pass(p, n, float(angle), float(tilt))
                for p, n, (angle, tilt) in zip(points, normals, held["poses"], strict=True)
            )
            return cls(passes, table[:3], table[3:6], float(table[6]), bytes(held["device"]).decode())

    @cached_property
    def hash(self) -> str:
        """SHA-256 of its bytes."""
        return hashlib.sha256(self.to_bytes()).hexdigest()


def turned_about(axis: Points, degrees: float) -> Points:
    """Rotation (3, 3) about a unit vector (3,), anticlockwise seen from where it points (Rodrigues)."""
    x, y, z = axis
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    angle = np.radians(degrees)
    return np.asarray(np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * (cross @ cross))
