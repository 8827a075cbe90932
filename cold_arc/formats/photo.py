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
# The tag that tells how a picture is turned (EXIF 2.3, from memory).
ORIENTATION = 0x0112
# JPEG's marker of the light itself; those of what applications add (colour profile and transform
# apart), and of comments.
START_OF_SCAN = 0xDA
TELLTALE = frozenset({*range(0xE1, 0xF0), 0xFE} - {0xE2, 0xEE})
NO_PICTURE = "This is no picture that can be read: JPEG, PNG or WebP."
MOST_BYTES, MOST_PIXELS = 25_000_000, 24_500_000
LONGEST, SMALL_LONGEST, QUALITY = 1600, 320, 85
# Sides worth keeping: longer ones, and strips, are no photograph. Pixels along the longer side that
# are measured: more tell no more of a beam, and four pictures must find room (own).
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


def without_whereabouts(data: bytes) -> bytes:
    """A camera's picture without where, when and by whom it was taken, nor comments: the same
    pixels, and how it is turned. PhotoError for what is no picture.
    """
    image = _opened_file(data)
    turned = Image.Exif()
    if (way := image.getexif().get(ORIENTATION, 1)) != 1:
        turned[ORIENTATION] = way
    if image.format == "JPEG":
        return _plain_jpeg(data, turned.tobytes() if way != 1 else b"")
    out = io.BytesIO()
    image.info = {}
    lossless = {"lossless": True} if image.format == "WEBP" else {}
    image.save(out, image.format, exif=turned, **lossless)
    return out.getvalue()


def _plain_jpeg(data: bytes, exif: bytes) -> bytes:
    """A JPEG's own segments but for those that tell of camera and place, and comments; the light in
    it untouched (ITU-T T.81 annex B, from memory).
    """
    kept, at = [data[:2]], 2
    if exif:
        kept.append(b"\xff\xe1" + (len(exif) + 2).to_bytes(2, "big") + exif)
    while data[at : at + 1] == b"\xff" and at + 4 <= len(data):
        marker, length = data[at + 1], int.from_bytes(data[at + 2 : at + 4], "big")
        if marker == START_OF_SCAN:
            break
        if marker not in TELLTALE:
            kept.append(data[at : at + 2 + length])
        at += 2 + length
    return b"".join([*kept, data[at:]])


def _opened_file(data: bytes) -> Image.Image:
    try:
        return Image.open(io.BytesIO(data), formats=TAKEN)
    except Exception as error:  # whatever a decoder makes of it
        raise PhotoError(NO_PICTURE) from error


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
        raise PhotoError(NO_PICTURE) from error


def _jpeg(image: Image.Image, longest: int) -> bytes:
    held = image.copy()
    held.thumbnail((longest, longest))
    return _bytes(held)


def _bytes(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY)
    return out.getvalue()
