"""What the crank wheel takes and gives: degrees of crank."""

from pydantic import BaseModel

from vivid_arm.core.engine.base_circle import Closing, Selection, StopPlanState, StopSchool
from vivid_arm.core.engine.layout import Layout, Rotation, ValveKind
from vivid_arm.records.fields import Cylinder, Figure, Strict
from vivid_arm.records.shapes import CamFigures, EngineFigures


class WindowOut(BaseModel):
    """A valve's heel on the crank, no guard: from ``from_deg`` turning on to ``to_deg``."""

    name: str
    cylinder: int
    kind: ValveKind
    from_deg: float
    to_deg: float


class TdcOut(BaseModel):
    """Firing TDC of a cylinder, crank degrees."""

    cylinder: int
    crank_deg: float


class StopValve(BaseModel):
    name: str
    margin_deg: float | None


class StopOut(BaseModel):
    crank_deg: float | None
    turn_deg: float | None
    look_for: str
    valves: list[StopValve]


class StopPlanOut(BaseModel):
    school: StopSchool
    title: str
    state: StopPlanState
    sentence: str
    saves: str
    stops: list[StopOut]


class BaseCircleOut(BaseModel):
    """Heel windows (none without a cam card) and the plans; crank 0 is the first firing TDC."""

    rotation: Rotation
    guard_deg: float
    lobes: str
    tdcs: list[TdcOut]
    windows: list[WindowOut]
    plans: list[StopPlanOut]
    measured: list[str] = []
    cautions: list[str] = []


class BaseCircleIn(Strict):
    """An engine (the usual one without figures), its cam card, and what to measure."""

    layout: Layout = "v"
    cylinders: Cylinder = 8
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    guard_deg: Figure = 15.0
    selection: Selection = "all"
    cylinder: Cylinder = 1
    closing: Closing = "third_left"


class LobeOut(BaseModel):
    """A lobe made from a card: crank degrees from its centre, lift in inches."""

    model: bool
    angle_deg: list[float]
    lift_in: list[float]
