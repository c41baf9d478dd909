"""Photos of valve tips as they come in: read, turned upright, made anew without metadata."""

import io
from dataclasses import dataclass

import numpy as np
import pillow_heif
from PIL import Image, ImageFile, ImageOps

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.photo import Guess, Picture, guess_overlay
from vivid_arm.core.words import Saying, figure, say
from vivid_arm.documents.apart import TooMuch, apart

MOST_BYTES = 15_000_000
MOST_PIXELS = {"JPEG": 60_000_000, "HEIF": 60_000_000, "PNG": 25_000_000}
MOST_SIDE_PX = 20_000
LONGEST_PX = 1600
_EXPECTED = Saying("JPEG or HEIC of at most 60 million pixels, PNG of at most 25 million, 15 MB")

pillow_heif.register_heif_opener()


@dataclass(frozen=True)
class ReadPhoto:
    """A photo made anew as JPEG, its size in pixels, and the first guess on it."""

    body: bytes
    width: int
    height: int
    guess: Guess


def photo_of(body: bytes) -> ReadPhoto:
    """A photo from an uploaded file, read in a process of its own. Raises InputError."""
    if len(body) > MOST_BYTES:
        raise _refusal(
            say(
                "Photo: {body} MB is more than {most_bytes} MB",
                body=figure(len(body) / 1000000.0, ".1f"),
                most_bytes=figure(MOST_BYTES / 1000000.0, ".0f"),
            ),
            say("Take it at a smaller size"),
        )
    try:
        return apart(read_photo, body, seconds=30, megabytes=1500)
    except TooMuch as error:
        raise _refusal(
            say("This photo cannot be read: {error}", error=error), say("Take it at a smaller size")
        ) from None


def read_photo(body: bytes) -> ReadPhoto:
    """A photo from an uploaded file, read here. Raises InputError."""
    upright = _upright(body)
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=88)
    picture = _array(upright)
    return ReadPhoto(out.getvalue(), upright.width, upright.height, guess_overlay(picture))


def _array(image: Image.Image) -> Picture:
    return np.ascontiguousarray(np.asarray(image.convert("RGB"))[:, :, ::-1])


def guess_on(body: bytes) -> Guess:
    """The first guess on a kept photo."""
    with Image.open(io.BytesIO(body)) as image:
        return guess_overlay(_array(image))


def _upright(body: bytes) -> Image.Image:
    """The picture as it is looked at, no larger than needed, without metadata."""
    # The PDF writer lets half images through for the whole process; half a photo is no photo.
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(body), formats=tuple(MOST_PIXELS)) as image:
            _check_size(image)
            if image.format == "JPEG":
                image.draft("RGB", (LONGEST_PX, LONGEST_PX))
            image.thumbnail((LONGEST_PX, LONGEST_PX))
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except InputError:
        raise
    except Exception:
        # Decoders raise whatever they like on a spoilt file.
        raise _refusal(
            say("This file is no photo that can be read"), say("Choose a JPEG, PNG or HEIC file")
        ) from None
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    return bare


def _check_size(image: Image.Image) -> None:
    most = MOST_PIXELS[image.format or "PNG"]
    if image.width * image.height > most or max(image.size) > MOST_SIDE_PX:
        raise _refusal(
            say(
                "Photo: {width} × {height} pixels is more than a {format} may have",
                width=image.width,
                height=image.height,
                format=image.format,
            ),
            say("Take it at a smaller size"),
        )


def _refusal(message: str, remedy: str) -> InputError:
    return InputError("photo", message, expected=say(_EXPECTED), remedy=remedy, code="photo")
