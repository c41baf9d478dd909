"""Photos of all sizes: what a phone takes is read, and none costs more than its own process."""

import io
import struct
import time
import zlib
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pillow_heif
import pytest
from PIL import Image

from vivid_arm.core.errors import InputError
from vivid_arm.demo.tip_photos import Scene, take
from vivid_arm.documents.apart import TooMuch, apart
from vivid_arm.documents.photos import photo_of

pytestmark = pytest.mark.slow


def made(kind: str, width: int, height: int) -> bytes:
    out = io.BytesIO()
    image = Image.new("RGB", (width, height), (90, 80, 70))
    if kind == "HEIF":
        pillow_heif.from_pillow(image).save(out, quality=30)
    else:
        image.save(out, kind)
    return out.getvalue()


def png_header(width: int, height: int) -> bytes:
    """A PNG that says it is large and holds nothing."""
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunk = b"IHDR" + head
    return (
        b"\x89PNG\r\n\x1a\n" + struct.pack(">I", len(head)) + chunk
        + struct.pack(">I", zlib.crc32(chunk))
    )  # fmt: skip


@pytest.mark.parametrize(
    ("kind", "width", "height"),
    [("JPEG", 9000, 6600), ("HEIF", 4000, 3000), ("PNG", 5000, 5000), ("JPEG", 4000, 3000)],
)
def test_what_a_phone_takes_is_read(kind: str, width: int, height: int) -> None:
    read = photo_of(made(kind, width, height))
    assert max(read.width, read.height) <= 1600
    assert read.width / read.height == pytest.approx(width / height, abs=0.003)
    assert read.body[:2] == b"\xff\xd8"


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (png_header(60_000, 60_000), "no photo"), (made("PNG", 5001, 5000), "more than a PNG"),
        (made("PNG", 1, 25_000), "more than a PNG"), (made("JPEG", 9000, 9000), "more than a JPEG"),
        (made("HEIF", 640, 480)[:300], "no photo"), (made("JPEG", 640, 480)[:900], "no photo"),
        (b"", "no photo"), (b"\x00" * 5000, "no photo"), (b"x" * 15_000_001, "15 MB"),
    ],
)  # fmt: skip
def test_what_is_too_large_or_no_photo_is_said(body: bytes, words: str) -> None:
    with pytest.raises(InputError, match=words) as refused:
        photo_of(body)
    assert refused.value.field == "photo"


def test_a_marked_tip_in_a_large_photo_is_guessed_the_same() -> None:
    """Scaled decoding moves no edge: the guess in a 36 Mpx photo is that of its small copy."""
    small = Image.fromarray(np.ascontiguousarray(take(Scene(-0.02, 0.03))[:, :, ::-1]))
    found = []
    for side in (1600, 6000):
        out = io.BytesIO()
        small.resize((side, side), Image.Resampling.LANCZOS).save(out, "JPEG", quality=92)
        guess = photo_of(out.getvalue()).guess
        assert guess.overlay is not None
        found.append((guess.overlay.inboard, guess.overlay.outboard, guess.overlay.radius))
    assert found[1] == pytest.approx(found[0], abs=3)


def eat(megabytes: int) -> int:
    return len(bytes(megabytes * 1_000_000))


def think(seconds: float) -> float:
    time.sleep(seconds)
    return seconds


def refuse() -> None:
    raise InputError("photo", "No", code="photo", expected="yes")


def test_work_apart_has_its_bounds() -> None:
    assert apart(eat, 10, seconds=30, megabytes=200) == 10_000_000
    with pytest.raises(TooMuch, match="more than 200 MB"):
        apart(eat, 500, seconds=30, megabytes=200)
    with pytest.raises(TooMuch, match="longer than 1 s"):
        apart(think, 30.0, seconds=1, megabytes=200)
    with pytest.raises(InputError, match="No") as refused:
        apart(refuse, seconds=30, megabytes=200)
    assert (refused.value.code, refused.value.expected) == ("photo", "yes")


def test_two_at_a_time_and_the_third_waits() -> None:
    began = time.monotonic()
    with ThreadPoolExecutor(4) as pool:
        done = list(pool.map(lambda _: apart(think, 1.0, seconds=60, megabytes=200), range(4)))
    assert done == [1.0] * 4
    assert time.monotonic() - began > 1.9
