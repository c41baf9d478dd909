"""The base circle station: heel windows, plans of stops, lobe tables."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from vivid_arm.api.base_circle.schemas import BaseCircleOut
from vivid_arm.api.base_circle.views import base_circle_out
from vivid_arm.api.deps import Rx, Tx, build_state, found_build, seen
from vivid_arm.api.problems import NotFound
from vivid_arm.api.responses import CsvResponse
from vivid_arm.api.setup.schemas import BuildSummary, LobeTableIn
from vivid_arm.api.setup.views import build_summary
from vivid_arm.core.engine.base_circle import Closing, Selection, chosen_valves
from vivid_arm.core.engine.cam import profile_of, write_lobe_table
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.said.cautions import TURNING
from vivid_arm.core.words import say, say_all
from vivid_arm.records.state.setup import cam_of
from vivid_arm.records.writes import setup

router = APIRouter(prefix="/api/builds/{build_id}", tags=["base_circle"])


@router.get("/base_circle")
def read_base_circle(
    build_id: UUID,
    session: Rx,
    selection: Selection = "all",
    cylinder: Annotated[int, Query(ge=1, le=16)] = 1,
    unmeasured: bool = False,
    closing: Closing = "third_left",
) -> BaseCircleOut:
    """Every valve's heel on the crank, and the four schools' plans for the chosen valves."""
    state = seen(session, build_id)
    measured = {v.name for v in state.valves if v.measured is not None}
    valves = chosen_valves(state.engine, selection, cylinder)
    if unmeasured:
        valves = tuple(v for v in valves if f"{v[0]}{v[1][0].upper()}" not in measured)
    found = base_circle_out(
        state.engine, cam_of(state.build), valves, float(state.build.guard_deg), closing
    )
    return found.model_copy(update={"measured": sorted(measured), "cautions": say_all(TURNING)})


@router.get("/cam/{kind}.csv", response_class=CsvResponse)
def read_lobe(build_id: UUID, kind: ValveKind, session: Rx) -> CsvResponse:
    """A lobe as CSV: the measured table, or the model made from the cam card."""
    card = cam_of(found_build(session, build_id))
    if card is None:
        raise NotFound(say("This build has no cam card."))
    return CsvResponse(
        write_lobe_table(profile_of(card.lobe(kind))),
        headers={"Content-Disposition": f'attachment; filename="{kind}-lobe.csv"'},
    )


@router.put("/cam/{kind}")
def keep_lobe(build_id: UUID, kind: ValveKind, body: LobeTableIn, session: Tx) -> BuildSummary:
    """Keep a measured lobe from CSV, or take it away; a bad line is named."""
    build = found_build(session, build_id)
    setup.keep_lobe_table(session, build, body.version, kind, body.csv)
    return build_summary(build_state(session, build.id))
