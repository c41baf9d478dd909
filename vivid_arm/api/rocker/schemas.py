"""What the rocker's geometry takes and gives. Inches and degrees, as names say."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.api.board.schemas import ValveSummary
from vivid_arm.api.said.schemas import ExplanationOut, VerdictOut
from vivid_arm.api.setup.schemas import BuildSummary
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.rocker.correction import MarkSchool
from vivid_arm.core.rocker.doubt import HuntedBy
from vivid_arm.core.rocker.judged import Finding
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.seen import AngleTool, End, EyePlace, EyeWidth
from vivid_arm.core.rocker.sheet import Dimension, Rocker
from vivid_arm.records.fields import Figure, Strict
from vivid_arm.records.shapes import GeometryFigures, MarkPhoto, OverlayFigures


class DimensionOut(BaseModel):
    """A line of the dimension sheet.

    ``u`` before any mark, ``setting_u_in`` what the
    asked-for setting would be known to if this were measured (None: no use).
    """

    name: Dimension
    words: str
    how: str
    value: float
    u: float
    measured: bool
    measured_u: float
    setting_u_in: float | None


class PredictedOut(BaseModel):
    """What the fit before a try expected of it, with standard uncertainties."""

    inboard_in: float
    outboard_in: float
    inboard_u_in: float
    outboard_u_in: float
    angle_deg: float
    angle_u_deg: float
    lift_in: float
    lift_u_in: float


class RatioPointOut(BaseModel):
    lobe_in: float
    valve_in: float
    ratio: float
    u: float
    local: float


class MarkOut(BaseModel):
    """A try: its setting, what was seen (edges from the tip's middle), and what it did."""

    id: int
    number: int
    setting_in: float
    raw: str
    raw_rod: str
    inboard_in: float | None
    outboard_in: float | None
    width_in: float | None
    off: End | None
    at_rest: bool
    place: EyePlace | None
    wide: EyeWidth | None
    across_in: float | None
    sink_in: float | None
    screw: float | None
    closed_end: End | None
    angle_deg: float | None
    angle_by: AngleTool
    lift_in: float | None
    lost_in: float | None
    ratios: list[RatioPointOut]
    photo: MarkPhoto | None
    predicted: PredictedOut | None
    error_in: float | None
    error_u_in: float | None
    struck: bool
    struck_reason: str | None
    restorable: bool
    by: str
    at: datetime


class CorrectionOut(BaseModel):
    """What a school asks for. Settings in the order's convention (rods) or as shim.

    Figures are null where the tries do not tell them (``told``).
    """

    school: MarkSchool
    words: str
    exact_in: float | None
    u_in: float | None
    rounded_in: float | None
    change_in: float | None
    refused: str
    told: bool
    inboard_in: float | None
    outboard_in: float | None
    inboard_u_in: float | None
    outboard_u_in: float | None
    width_in: float | None
    error_in: float | None
    angle_deg: float | None
    angle_u_deg: float | None
    lift_in: float | None
    lift_change_in: float | None
    rod_change_in: float | None


class SchoolsConflictOut(BaseModel):
    """How far the narrow mark stands off the middle, and what would bring it there."""

    off_in: float
    u_in: float
    move_in: float
    fulcrum_in: float


class RivalOut(BaseModel):
    error_in: float
    error_u_in: float
    weight: float


class NextReadingOut(BaseModel):
    """A reading to take next, in words, and what the setting would be known to after it."""

    kind: str
    words: str
    lengths: dict[str, float]
    smalls: dict[str, float]
    setting_u_in: float
    decides: bool
    chance: float


class HuntPointOut(BaseModel):
    setting_in: float
    lift_in: float


class LiftHuntOut(BaseModel):
    """Net lift over the settings tried (``by`` rod, shim or the screw's turns), and its peak.

    ``rising`` +1 or -1 where lift still grows at an end; ``lost_in`` what the best lacks to
    lobe times ratio.
    """

    by: HuntedBy
    points: list[HuntPointOut]
    best_in: float
    most_in: float
    peak_in: float | None
    rising: int
    expected_in: float
    lost_in: float


class RockerOut(BaseModel):
    """Everything the rocker's station shows for one valve."""

    build_id: UUID
    valve: ValveSummary
    stud: bool
    tip: Tip
    convention: Convention
    figures: GeometryFigures
    entered: bool
    sheet: list[DimensionOut]
    marks: list[MarkOut]
    now_in: float
    error_in: float
    error_u_in: float
    angle_deg: float
    decided: bool
    rivals: list[RivalOut]
    ratio: float
    ratio_u: float
    ratio_used: bool
    catalogue: float
    lift_in: float
    corrections: list[CorrectionOut]
    conflict: SchoolsConflictOut | None
    next_readings: list[NextReadingOut]
    untold: list[str]
    verdict: VerdictOut
    finding: Finding
    settled_in: float | None
    across: VerdictOut | None
    over_lift: VerdictOut | None
    direction: str
    hunt: LiftHuntOut | None
    explanations: dict[str, ExplanationOut]
    cautions: list[str]


class KeptRocker(RockerOut):
    """The answer to a try: its rocker and its build, as they are now."""

    build: BuildSummary


Numbers = list[float]


Rows = list[list[float]]


class SettingsOut(BaseModel):
    """Settings side by side: each list as long as ``setting_in``."""

    setting_in: Numbers
    fulcrum_in: Numbers
    height_in: Numbers
    rod_in: Numbers
    inboard_in: Numbers
    outboard_in: Numbers
    width_in: Numbers
    error_in: Numbers
    angle_deg: Numbers
    lift_in: Numbers
    ratio: Numbers
    roll_in: Numbers
    slide_in: Numbers
    side_load: Numbers
    durations_deg: list[list[float | None]]
    refused: list[str]


class MotionOut(BaseModel):
    """A dense batch to move inside: lists over settings, rows of lists over the lobe's lift.

    ``least_in`` is the narrowest sweep of a roller, the least sliding of a shoe.
    """

    tip: Tip
    stud: bool
    arm_in: float
    cup_in: float
    bend_deg: float
    tip_radius_in: float
    stem_in: float
    seat_x_in: float
    seat_y_in: float
    lifter_deg: float
    offset_in: float
    axis_deg: float
    film_in: float
    least_in: float
    valve_lifts_in: Numbers
    stocked_in: Numbers
    lobe_in: Numbers
    settings: SettingsOut
    valve_in: Rows
    contact_in: Rows
    arm_deg: Rows
    ratio: Rows


class PhotoOut(BaseModel):
    """A kept photo and the first guess of circle and mark."""

    id: UUID
    width: int
    height: int
    overlay: OverlayFigures | None
    clear: bool
    said: str


class MidLiftOut(BaseModel):
    """Where the gauge must stand at half lift, and how far it is from there."""

    mid_lift_in: float
    off_in: float | None
    there: bool
    sentence: str


class MidLiftIn(Strict):
    net_lift_in: Figure
    gauge_in: Figure | None = None


class MechanismIn(Strict):
    """A rocker to move: the frame's origin is the closed tip's middle, outboard positive."""

    arm_in: Figure
    cup_in: Figure
    bend_deg: Figure
    tip_radius_in: Figure
    fulcrum_in: Figure
    height_in: Figure
    seat_x_in: Figure
    seat_y_in: Figure
    stem_in: Figure
    tip: Tip = "roller"
    stud: bool = False
    lifter_deg: Figure = 0.0
    offset_in: Figure = 0.0
    axis_deg: Figure = 0.0
    lobe_in: Annotated[list[Figure], Field(min_length=1, max_length=721)]


class MechanismOut(BaseModel):
    rod_in: float
    valve_in: Numbers
    contact_in: Numbers
    arm_deg: Numbers
    rod_deg: Numbers
    ratio: Numbers
    sweep_inboard_in: float
    sweep_outboard_in: float
    sweep_width_in: float
    sweep_centre_in: float
    least_width_in: float
    error_in: float
    mid_angle_deg: float
    roll_in: float
    slide_in: float
    side_load: float


class DimensionIn(Strict):
    value: Figure
    u: Figure


class SeenMarkIn(Strict):
    """One try: ``setting_in`` is the rod's centre length on a stud, else the shim."""

    setting_in: Figure
    inboard_in: Figure | None = None
    outboard_in: Figure | None = None
    width_in: Figure | None = None
    off: End | None = None
    rest_in: Figure | None = None
    place: EyePlace | None = None
    wide: EyeWidth | None = None
    sink_in: Figure = 0.0
    closed_end: End | None = None
    angle_deg: Figure | None = None
    angle_by: AngleTool = "inclinometer"
    lift_in: Figure | None = None


class MarksIn(Strict):
    rocker: Rocker
    catalogue_ratio: Figure
    stem_in: Figure
    rod_in: Figure
    lobe_lift_in: Figure | None = None
    net_lift_in: Figure | None = None
    lifter_deg: Figure = 0.0
    offset_in: Figure = 0.0
    fulcrum_in: Figure | None = None
    measured: dict[Dimension, DimensionIn] = Field(default_factory=dict)
    tries: Annotated[list[SeenMarkIn], Field(max_length=20)]
    school: MarkSchool = "mid_lift"
    now_in: Figure | None = None
    step_in: Annotated[Figure, Field(gt=0)] = 0.005


class MarksOut(BaseModel):
    error_in: float
    error_u_in: float
    rivals: list[RivalOut]
    ratio: float
    ratio_u: float
    exact_in: float | None
    exact_u_in: float | None
    rounded_in: float | None
    refused: str
    finding: Finding
    settled_in: float | None
    what: str
    next_reading: str
    unknowns: dict[str, float]
    us: dict[str, float]


class RatioIn(Strict):
    pairs: Annotated[list[tuple[Figure, Figure]], Field(min_length=1, max_length=60)]
    light_in: Figure | None = None
    real_in: Figure | None = None


class RatioOut(BaseModel):
    points: list[RatioPointOut]
    lost_in: float | None
