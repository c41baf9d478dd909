"""Deciding: which lengths, how likely they fit, the rod itself, the shop's box, the cut list."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from vivid_arm.api.decide.schemas import DecisionOut, InHandOut, PressedIn, PressedOut, RodOut
from vivid_arm.api.decide.views import cuts_of, decision_out, in_hand_out, rod_out
from vivid_arm.api.deps import Rx, SaidUnit, Tx, build_state, seen
from vivid_arm.api.responses import CsvResponse, PdfResponse
from vivid_arm.core.entry.lengths import FIELDS, parse_lengths
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.cutting import CutList, Tips, after_pressing
from vivid_arm.core.words import say
from vivid_arm.documents import cut_sheet
from vivid_arm.documents.paper import Paper
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rod import rod_figures, tips_of

router = APIRouter(tags=["decide"])


@router.get("/api/builds/{build_id}/decide")
def read_decision(build_id: UUID, session: Rx) -> DecisionOut | None:
    """Every valve's rod, ways of buying side by side, chances; null while nothing is measured."""
    return decision_out(seen(session, build_id))


@router.get("/api/builds/{build_id}/in-hand")
def read_in_hand(build_id: UUID, session: Rx) -> list[InHandOut]:
    """Whether the rods on the engine fit, by kind, from preloads read without their length."""
    return in_hand_out(seen(session, build_id))


@router.get("/api/builds/{build_id}/rod")
def read_rod(build_id: UUID, session: Rx) -> RodOut:
    """The rod itself: strength beside others, room in the head, cut list."""
    return rod_out(seen(session, build_id))


@router.get("/api/builds/{build_id}/cut-list.csv", response_class=CsvResponse)
def cut_list_csv(build_id: UUID, session: Rx) -> CsvResponse:
    """The cut list, one row a rod."""
    found, _ = _cuts(seen(session, build_id))
    return CsvResponse(
        cut_sheet.to_csv(found),
        headers={"Content-Disposition": 'attachment; filename="cut-list.csv"'},
    )


@router.get("/api/builds/{build_id}/cut-list.pdf", response_class=PdfResponse)
def cut_list_pdf(
    build_id: UUID,
    session: Rx,
    unit: SaidUnit,
    paper: Annotated[Paper, Query()] = "A4",
) -> PdfResponse:
    """The cut list to print, with room for the pressed lengths."""
    state = seen(session, build_id)
    found, tips = _cuts(state)
    return PdfResponse(
        cut_sheet.to_pdf(state, found, tips, unit, paper),
        headers={"Content-Disposition": 'inline; filename="cut-list.pdf"'},
    )


@router.post("/api/builds/{build_id}/cut-list/pressed")
def check_pressed(build_id: UUID, body: PressedIn, session: Tx) -> list[PressedOut]:
    """Rods as they measure after pressing, in the cut list's order, against its tolerance."""
    state = build_state(session, build_id)
    found, _ = _cuts(state)
    parsed = parse_lengths(body.rods, FIELDS["rod_length"], body.unit)
    if len(parsed) > len(found.cuts):
        raise InputError(
            "rods",
            say(
                "{parsed} rods measured, {cuts} are on the list",
                parsed=len(parsed),
                cuts=len(found.cuts),
            ),
            received=len(parsed),
            expected=say("at most {cuts}", cuts=len(found.cuts)),
            remedy=say("Type them in the order of the list"),
            code="too_many",
        )
    tolerance = rod_figures(state.build).cut_tolerance_in
    return [
        PressedOut(
            valve=cut.valve,
            measured_in=float(p.inches),
            off_in=round(float(p.inches) - cut.finished_in, 6),
            within=after_pressing(cut.finished_in, float(p.inches), tolerance),
        )
        for cut, p in zip(found.cuts, parsed, strict=False)
    ]


def _cuts(state: BuildState) -> tuple[CutList, Tips]:
    found, tips = cuts_of(state), tips_of(state.build)
    if found is None or tips is None:
        raise InputError(
            "sample_tube_in",
            say("There is nothing to cut yet"),
            remedy=say("Measure a sample's tube and finished length, and decide the rods"),
            code="nothing_to_cut",
        )
    return found, tips
