"""Pictures and text pressed into a figure's surface."""

from ulvet.core.stamp.picture import Picture, UnusablePicture, narrowest_stroke, picture_of, picture_of_text, softened
from ulvet.core.stamp.pressing import LANDED, CannotPress, Pressed, Stamping, press

__all__ = [
    "LANDED",
    "CannotPress",
    "Picture",
    "Pressed",
    "Stamping",
    "UnusablePicture",
    "narrowest_stroke",
    "picture_of",
    "picture_of_text",
    "press",
    "softened",
]
