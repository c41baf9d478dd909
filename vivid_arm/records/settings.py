"""A build's set-up and its usual figures."""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.core.engine.base_circle import USUAL_GUARD_DEG
from vivid_arm.core.engine.layout import Layout
from vivid_arm.core.entry.conventions import (
    USUAL_BALL_IN,
    USUAL_GAUGE_CIRCLE_IN,
    Convention,
    EndKind,
)
from vivid_arm.core.rocker.ratio import USUAL_RATIO
from vivid_arm.core.rods.preload import (
    USUAL_SCHOOL,
    USUAL_STOCK_STEP_IN,
    USUAL_TRAVEL_IN,
    Bias,
    PreloadSchoolCode,
)
from vivid_arm.core.zero_lash.methods import USUAL_FASTENER_PITCH_IN
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.fields import Cylinder, Figure, InField, Name, Strict
from vivid_arm.records.shapes import (
    CamFigures,
    EngineFigures,
    FinalFigures,
    Limits,
    PriorFigures,
    RockerGeometry,
    RodFigures,
    RodPlanFigures,
    StartingFigures,
    TorqueFigures,
    TurnsFigures,
)

_USUAL = USUAL_SCHOOL.lifter(USUAL_TRAVEL_IN)


class BuildSettings(BaseModel):
    """A build's set-up; the defaults are common practice and can all be changed."""

    name: Name
    layout: Layout = "v"
    cylinders: Cylinder = 8
    ratio_intake: Figure = USUAL_RATIO
    ratio_exhaust: Figure = USUAL_RATIO
    r0_intake: Figure | None = Field(None, title="Ratio near closed, intake")
    r0_exhaust: Figure | None = Field(None, title="Ratio near closed, exhaust")
    preload_low_in: Annotated[Figure, InField("preload")] = _USUAL.low_in
    preload_high_in: Annotated[Figure, InField("preload")] = _USUAL.high_in
    preload_target_in: Annotated[Figure, InField("preload")] = _USUAL.target_in
    travel_in: Annotated[Figure, InField("travel")] = USUAL_TRAVEL_IN
    instrument_id: UUID | None = None
    gaps: bool = True
    lifter_end: EndKind = "ball"
    lifter_ball_in: Annotated[Figure, InField("ball")] = USUAL_BALL_IN
    lifter_hole_in: Annotated[Figure, InField("oil_hole")] = 0.0
    rocker_end: EndKind = "ball"
    rocker_ball_in: Annotated[Figure, InField("ball")] = USUAL_BALL_IN
    rocker_hole_in: Annotated[Figure, InField("oil_hole")] = 0.0
    gauge_circle_in: Annotated[Figure, InField("gauge_circle")] = USUAL_GAUGE_CIRCLE_IN
    order_convention: Convention = "theoretical"
    stock_step_in: Annotated[Figure, InField("stock_step")] = USUAL_STOCK_STEP_IN
    bias: Bias = "longer"
    picked_intake_in: Annotated[Figure, InField("rod_length")] | None = None
    picked_exhaust_in: Annotated[Figure, InField("rod_length")] | None = None
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    prior: PriorFigures | None = None
    final: FinalFigures | None = None
    guard_deg: Figure = USUAL_GUARD_DEG
    lifter_kind: Literal["hydraulic", "solid"] = "hydraulic"
    lifter_foot: Literal["flat", "roller"] = "flat"
    seat_height_in: Annotated[Figure, InField("seat_height")] | None = None
    checking_seat_in: Annotated[Figure, InField("seat_height")] | None = None
    lash_intake_in: Annotated[Figure, InField("lash")] | None = None
    lash_exhaust_in: Annotated[Figure, InField("lash")] | None = None
    mount: Mount = "pedestal"
    fastener_pitch_in: Annotated[Figure, InField("thread_pitch")] = USUAL_FASTENER_PITCH_IN
    geometry: RockerGeometry | None = None
    preload_school: PreloadSchoolCode | None = None
    preload_turns: TurnsFigures | None = None
    plan: RodPlanFigures | None = None
    rod: RodFigures | None = None
    limits: Limits | None = None
    torque: TorqueFigures | None = None
    starting: StartingFigures | None = None


class InstrumentFigures(Strict):
    """A checking rod has closed length, pitch and turns; a caliper its range."""

    closed_in: Annotated[Figure, InField("closed_length")] | None = None
    pitch_in: Annotated[Figure, InField("thread_pitch")] | None = None
    most_turns: Figure | None = Field(None, title="Turns the rod opens")
    low_in: Annotated[Figure, InField("caliper_low")] | None = None
    high_in: Annotated[Figure, InField("caliper_high")] | None = None
    accuracy_in: Annotated[Figure, InField("accuracy")] | None = None
    resolution_in: Annotated[Figure, InField("resolution")] | None = None
