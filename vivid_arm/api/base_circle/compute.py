"""Stateless: heel windows, plans of stops, lobes."""

from fastapi import APIRouter

from vivid_arm.api.base_circle.schemas import BaseCircleIn, BaseCircleOut, LobeOut
from vivid_arm.api.base_circle.views import base_circle_out
from vivid_arm.core.engine.base_circle import chosen_valves
from vivid_arm.core.engine.cam import CamCard, Lobe, profile_of
from vivid_arm.records.shapes import CamFigures, LobeFigures
from vivid_arm.records.state.setup import engine_given

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/base_circle")
def wheel(body: BaseCircleIn) -> BaseCircleOut:
    """Heel windows and plans of stops.

    Example: ICL 106, LSA 110, both durations 290: cylinder 1's intake heel from 611 to 1041.
    """
    engine = engine_given(body.layout, body.cylinders, body.engine)
    valves = chosen_valves(engine, body.selection, body.cylinder)
    card = _card(body.cam) if body.cam else None
    return base_circle_out(engine, card, valves, body.guard_deg, body.closing)


def _card(cam: CamFigures) -> CamCard:
    intake, exhaust = (Lobe(**lobe.model_dump()) for lobe in (cam.intake, cam.exhaust))
    return CamCard(intake, exhaust, cam.icl_deg, cam.lsa_deg)


@router.post("/lobe")
def lobe(body: LobeFigures) -> LobeOut:
    """A smooth lobe from a cam card; it meets both durations and the lift, and is a model."""
    found = profile_of(Lobe(**body.model_dump()))
    return LobeOut(
        model=found.model, angle_deg=found.angle_deg.tolist(), lift_in=found.lift_in.tolist()
    )
