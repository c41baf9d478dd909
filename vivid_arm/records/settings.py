"""A build's set-up and its usual figures."""

from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from vivid_arm.core.engine.layout import Layout
from vivid_arm.core.entry.conventions import Convention, EndKind
from vivid_arm.core.rods.preload import Bias, SchoolCode
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.fields import Cylinder, Figure, Name
from vivid_arm.records.shapes import (
    CamFigures,
    EngineFigures,
    Limits,
    PlanFigures,
    PriorFigures,
    RockerGeometry,
    RodFigures,
    TorqueFigures,
)


class Settings(BaseModel):
    """A build's set-up; the defaults are common practice and can all be changed."""

    name: Name
    layout: Layout = "v"
    cylinders: Cylinder = 8
    ratio_intake: Figure = 1.6
    ratio_exhaust: Figure = 1.6
    preload_low_in: Figure = 0.020
    preload_high_in: Figure = 0.060
    preload_target_in: Figure = 0.040
    travel_in: Figure = 0.140
    instrument_id: UUID | None = None
    gaps: bool = True
    lifter_end: EndKind = "ball"
    lifter_ball_in: Figure = 0.3125
    lifter_hole_in: Figure = 0.0
    rocker_end: EndKind = "ball"
    rocker_ball_in: Figure = 0.3125
    rocker_hole_in: Figure = 0.0
    gauge_circle_in: Figure = 0.140
    order_convention: Convention = "theoretical"
    stock_step_in: Figure = 0.025
    bias: Bias = "longer"
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    prior: PriorFigures | None = None
    guard_deg: Figure = 15.0
    lifter_kind: Literal["hydraulic", "solid"] = "hydraulic"
    lifter_foot: Literal["flat", "roller"] = "flat"
    seat_height_in: Figure | None = None
    lash_intake_in: Figure | None = None
    lash_exhaust_in: Figure | None = None
    mount: Mount = "pedestal"
    fastener_pitch_in: Figure = 0.055556
    geometry: RockerGeometry | None = None
    preload_school: SchoolCode | None = None
    plan: PlanFigures | None = None
    rod: RodFigures | None = None
    limits: Limits | None = None
    torque: TorqueFigures | None = None
