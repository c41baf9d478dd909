"""Stateless: typed lengths and turns, conventions, a checking rod."""

from statistics import fmean

from fastapi import APIRouter

from vivid_arm.api.deps import checked
from vivid_arm.api.setup.schemas import (
    CheckingRodIn,
    ConvertIn,
    FiringOrderIn,
    FiringOrderOut,
    LengthOut,
    ParseIn,
    ParseOut,
    TurnsIn,
    TurnsOut,
)
from vivid_arm.core.engine.layout import parse_firing_order
from vivid_arm.core.entry.conventions import RodEnd, RodEnds, convert
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import (
    FIELDS,
    format_length,
    format_turns,
    parse_bolts,
    parse_length,
    parse_turns,
)
from vivid_arm.core.words import say

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/length")
def read_length(body: ParseIn) -> ParseOut:
    """Read a typed length. Example: "218.34 mm" as rod_length gives 8.596063 in."""
    inches = float(parse_length(body.text, FIELDS[body.field], body.unit).inches)
    return ParseOut(
        inches=inches, in_words=format_length(inches), mm_words=format_length(inches, "mm")
    )


@router.post("/turns")
def read_turns(body: TurnsIn) -> TurnsOut:
    """Read a typed count of turns. Example: "9 5/8" gives 9.625."""
    read = parse_bolts(body.text) if body.bolts else (parse_turns(body.text),)
    return TurnsOut(turns=fmean(read), words=say(" and ").join(map(format_turns, read)))


@router.post("/firing-order")
def read_firing_order(body: FiringOrderIn) -> FiringOrderOut:
    """Read a typed firing order. Example: "1-3-4-2" gives [1, 3, 4, 2]."""
    return FiringOrderOut(firing_order=list(parse_firing_order(body.text)))


@router.post("/convention")
def convert_length(body: ConvertIn) -> LengthOut:
    """Carry a rod length from one convention to another.

    Example: 8.600 theoretical, two 5/16 balls with 0.100 holes: measured 8.583568.
    """
    checked("rod_length", body.length_in)
    ends = RodEnds(
        RodEnd(body.lifter.kind, body.lifter.ball_in, body.lifter.oil_hole_in),
        RodEnd(body.rocker.kind, body.rocker.ball_in, body.rocker.oil_hole_in),
        body.gauge_circle_in,
    )
    return LengthOut(
        length_in=convert(body.length_in, body.given, body.wanted, ends), convention=body.wanted
    )


@router.post("/checking-rod")
def set_checking_rod(body: CheckingRodIn) -> float:
    """Length of a checking rod in inches. Example: 8.150 + 9.625 x 0.041667 = 8.551045."""
    checked("closed_length", body.closed_in)
    checked("thread_pitch", body.pitch_in)
    return CheckingRod(body.closed_in, body.pitch_in, body.most_turns).length_in(body.turns)
