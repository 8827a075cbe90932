"""A photograph as it comes from a camera: checked, turned upright, made smaller, freed of where and
when it was.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps

from cold_arc.core.errors import ColdArcError
from cold_arc.core.wallphoto.picture import TO_LINEAR, as_shown

TAKEN = ("JPEG", "PNG", "WEBP")
MOST_BYTES, MOST_PIXELS = 25_000_000, 24_500_000
LONGEST, SMALL_LONGEST, QUALITY = 1600, 320, 85
# Sides worth keeping: longer ones, and strips, are no photograph. Pixels along the longer side that
# are measured: more tell no more of a beam, and four pictures must find room.
MOST_SIDE, MOST_PROPORTION, MEASURED_LONGEST = 12_000, 5, 4096


class PhotoError(ColdArcError, ValueError):
    """Not a picture that can be kept; the message says why."""


@dataclass(frozen=True)
class Photo:
    """A picture to keep, and a small one of it, both JPEG."""

    jpeg: bytes
    small: bytes


def read_pixels(data: bytes) -> NDArray[np.uint8]:
    """The pixels (rows, columns, 3; RGB) of a JPEG, PNG or WebP picture, upright, as taken but for
    what is over `MEASURED_LONGEST`; PhotoError for others.
    """
    if len(data) > MOST_BYTES:
        raise PhotoError(f"The picture is larger than {MOST_BYTES // 1_000_000} MB.")
    image = _opened(data, smaller=False)
    if max(image.size) > MEASURED_LONGEST:
        image.thumbnail((MEASURED_LONGEST, MEASURED_LONGEST), Image.Resampling.BOX)
    return np.asarray(image)


def read_photo(data: bytes) -> Photo:
    """A JPEG, PNG or WebP picture of up to 24 megapixels; PhotoError for anything else."""
    if not data:
        raise PhotoError("No picture was chosen.")
    if len(data) > MOST_BYTES:
        raise PhotoError(f"The picture is larger than {MOST_BYTES // 1_000_000} MB.")
    image = _opened(data)
    return Photo(_jpeg(image, LONGEST), _jpeg(image, SMALL_LONGEST))


def size_of(jpeg: bytes) -> tuple[int, int]:
    """Pixels across and down of a picture kept."""
    return Image.open(io.BytesIO(jpeg)).size


def write_light(light: NDArray[np.float32]) -> bytes:
    """Light (rows, columns), its brightest white, as a grey JPEG in sRGB."""
    return _bytes(Image.fromarray(as_shown(light / max(float(light.max()), 1e-9))))


def read_light(jpeg: bytes) -> NDArray[np.float32]:
    """The light `write_light` wrote, 1 for white."""
    return np.asarray(TO_LINEAR[np.asarray(Image.open(io.BytesIO(jpeg)).convert("L"))])


def tinted(jpeg: bytes, white: tuple[int, int, int]) -> bytes:
    """A grey picture in one colour, as JPEG."""
    grey = Image.open(io.BytesIO(jpeg)).convert("L")
    return _bytes(ImageOps.colorize(grey, black=(8, 9, 11), white=white))


def _opened(data: bytes, smaller: bool = True) -> Image.Image:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            image: Image.Image = Image.open(io.BytesIO(data), formats=TAKEN)
            if image.width * image.height > MOST_PIXELS:
                raise PhotoError("The picture has more than 24 megapixels.")
            if max(image.size) > min(MOST_SIDE, MOST_PROPORTION * min(image.size)):
                raise PhotoError(
                    f"The picture is {image.width} × {image.height} pixels: a strip, no photograph."
                )
            if smaller:
                image.draft("RGB", (2 * LONGEST, 2 * LONGEST))
            return ImageOps.exif_transpose(image).convert("RGB")
    except PhotoError:
        raise
    except Exception as error:  # whatever a decoder makes of it
        raise PhotoError("This is no picture that can be read: JPEG, PNG or WebP.") from error


def _jpeg(image: Image.Image, longest: int) -> bytes:
    held = image.copy()
    held.thumbnail((longest, longest))
    return _bytes(held)


def _bytes(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()
