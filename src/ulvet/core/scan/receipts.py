"""What the steps of a scan tell of what they did."""

from ulvet.core.recipe.receipt import Count, Greatest, Receipt

__all__ = [
    "CutReceipt",
    "DropSpecksReceipt",
    "FuseReceipt",
    "RemeshReceipt",
    "SetLengthsReceipt",
    "SetUprightReceipt",
    "SmoothReceipt",
]


class FuseReceipt(Receipt):
    """Passes and points that were fused, how well they agree, by the turntable alone as well, the grid, and by how much
    the device errs, mm."""

    passes: Count = 0
    points: Count = 0
    outliers: Count = 0
    triangles: Count = 0
    residual_mm: Greatest = 0.0
    by_table_mm: Greatest = 0.0
    pitch_mm: Greatest = 0.0
    noise_mm: Greatest = 0.0


class SetUprightReceipt(Receipt):
    """Rims carried down to the table, and by how much it was turned."""

    seated: Count = 0
    turned_degrees: Greatest = 0.0


class CutReceipt(Receipt):
    """Triangles that are left, and how high over the ground a mount was cut off, figure mm."""

    triangles: Count = 0
    height_mm: Greatest = 0.0


class SetLengthsReceipt(Receipt):
    """Lengths that landed, by how much they made it larger, and the share by which they disagree."""

    lengths: Count = 0
    factor: Greatest = 1.0
    disagreement: Greatest = 0.0


class DropSpecksReceipt(Receipt):
    """Specks that went."""

    dropped: Count = 0


class SmoothReceipt(Receipt):
    """Vertices that moved."""

    vertices: Count = 0


class RemeshReceipt(Receipt):
    """Triangles before and after, and the length of their edges, figure mm."""

    before: Count = 0
    after: Count = 0
    edge_mm: Greatest = 0.0
