"""Photos of valve tips as they come in: read, turned upright, made anew without metadata."""

import io

import numpy as np
import pillow_heif
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.photo import Picture
from vivid_arm.records.tables import Photo

MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000
LONGEST_PX = 1600
FORMATS = ("JPEG", "PNG", "HEIF")

pillow_heif.register_heif_opener()


def photo_of(body: bytes) -> Photo:
    """A photo row from an uploaded file (JPEG, PNG or HEIC). Raises InputError."""
    upright = _read(body)
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=88)
    return Photo(width=upright.width, height=upright.height, body=out.getvalue())


def picture_of(photo: Photo) -> Picture:
    """The kept photo as an array (rows, columns, blue-green-red)."""
    with Image.open(io.BytesIO(photo.body)) as image:
        return np.ascontiguousarray(np.asarray(image.convert("RGB"))[:, :, ::-1])


def _read(body: bytes) -> Image.Image:
    if len(body) > MOST_BYTES:
        raise _refusal(
            f"Photo: {len(body) / 1e6:.1f} MB is more than {MOST_BYTES / 1e6:.0f} MB",
            "Take it at a smaller size",
        )
    # The PDF writer lets half images through for the whole process; half a photo is no photo.
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(body), formats=FORMATS) as image:
            if image.width * image.height > MOST_PIXELS:
                raise _refusal(
                    f"Photo: {image.width} × {image.height} pixels is more than "
                    f"{MOST_PIXELS / 1e6:.0f} million",
                    "Take it at a smaller size",
                )
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        if isinstance(error, InputError):
            raise
        raise _refusal(
            "This file is no photo that can be read", "Choose a JPEG, PNG or HEIC file"
        ) from None
    upright.thumbnail((LONGEST_PX, LONGEST_PX))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    return bare


def _refusal(message: str, remedy: str) -> InputError:
    return InputError(
        "photo", message, expected="JPEG, PNG or HEIC, at most 15 MB", remedy=remedy, code="photo"
    )
