"""The stations of the work, in order. A station has the same name everywhere."""

from enum import StrEnum

__all__ = ["Station"]


class Station(StrEnum):
    """One stop on the way from a source to a finished print."""

    BRING_IN = "bring-in"
    SIZE = "size"
    MEND = "mend"
    GAUGE = "gauge"
    HOLLOW = "hollow"
    PART = "part"
    STAND = "stand"
    LAYERS = "layers"
    PROOF = "proof"
    RELEASE = "release"
    FINISH = "finish"
