"""What outcomes, times, causes and decisions are called in a sentence."""

from ulvet.core.proof.proof import Cause, Decision, When

__all__ = ["CAUSES", "DECISIONS", "WHENS"]

CAUSES: dict[Cause, str] = {
    Cause.DID_NOT_STICK: "did not stick to the plate",
    Cause.CAME_OFF_SUPPORTS: "came off its supports",
    Cause.ISLAND: "grew as an island",
    Cause.SUCTION: "was torn by suction",
    Cause.THIN_PART: "was too thin",
    Cause.LAYERS_PARTED: "parted between layers",
    Cause.LAYER_SHIFT: "has layers that shifted",
    Cause.WARP: "warped or lifted at a corner",
    Cause.SAG: "sagged, dripped or sank",
    Cause.TRAPPED_RESIN: "has resin trapped in it",
    Cause.CLOG: "is clogged or banded",
    Cause.SUPPORT_MOVED: "had a support that moved",
    Cause.JOINT_MISFIT: "does not fit at its joint",
    Cause.HANDS: "was damaged by hand",
    Cause.UNKNOWN: "failed for a cause not known yet",
}

WHENS: dict[When, str] = {
    When.ON_PLATE: "on the plate",
    When.SUPPORTS_OFF: "when supports came off",
    When.SANDING: "while it was sanded",
    When.GLUING: "while it was glued",
    When.MASKING: "while it was masked",
    When.PAINTING: "while it was painted",
    When.CARRIED: "while it was carried",
    When.IN_USE: "in use",
}

DECISIONS: dict[Decision, str] = {
    Decision.REPRINT: "Print that part again as it is",
    Decision.REPAIR: "Mend this copy by hand",
    Decision.REDESIGN: "Change the recipe",
    Decision.LEAVE: "Leave it as it is",
}
