"""Pictures made fit to be drawn on the chart."""

from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from ulvet.core.sources.picture import UnusablePicture

__all__ = ["shown_picture"]

_MOST_SIDE = 12_000
"""Pixels of a picture's side that are read, for memory."""
_SHOWN_SIDE = 1_600
"""Pixels of a picture's side on the chart."""


def shown_picture(data: bytes) -> tuple[bytes, float]:
    """A PNG or JPEG as a PNG of at most 1,600 pixels a side, turned upright as its camera says, and its height over its
    width. Nothing else of the file is kept.

    Raises UnusablePicture for other kinds, damaged files and pictures over 12,000 pixels a side.
    """
    try:
        with Image.open(BytesIO(data), formats=["PNG", "JPEG"]) as image:
            if max(image.size) > _MOST_SIDE or min(image.size) < 1:
                raise UnusablePicture(
                    f"This picture is {image.width} x {image.height} pixels, and {_MOST_SIDE:,} a side is the most: "
                    "save it smaller and try again; nothing was changed."
                )
            image.draft("RGB", (_SHOWN_SIDE, _SHOWN_SIDE))
            upright = ImageOps.exif_transpose(image).convert("RGBA")
    except UnidentifiedImageError as error:
        raise UnusablePicture(
            "A picture to work from is a PNG or a JPEG, and this is neither; nothing was changed."
        ) from error
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        raise UnusablePicture("This picture is damaged: save it again and try once more.") from error
    upright.thumbnail((_SHOWN_SIDE, _SHOWN_SIDE))
    drawn = BytesIO()
    upright.save(drawn, "PNG")
    return drawn.getvalue(), upright.height / upright.width
