"""The shapes of the JSON columns: set-up figures of the engine, the rocker, the rod, the checks.

Lengths are inches unless a name says otherwise.
"""

from typing import Annotated
from uuid import UUID

from pydantic import Field

from vivid_arm.core.engine.layout import Numbering, Rotation, Side
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.rocker.correction import School as MarkSchool
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.sheet import Dimension
from vivid_arm.core.rods.grouping import Strategy
from vivid_arm.core.rods.growth import Material, PartName
from vivid_arm.core.rods.strength import Form
from vivid_arm.core.sign_off.checks import CheckName
from vivid_arm.core.sign_off.torque import TorqueUnit
from vivid_arm.core.zero_lash.predict import Change
from vivid_arm.records.fields import Cylinder, Figure, Name, Strict, Text

Pixel = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-5000, le=5000)]


class OverlayFigures(Strict):
    """Circle and lines on a photo, pixels from its top left; lines along the axis from the middle.

    ``axis_deg`` points outboard, clockwise from the picture's right.
    """

    x: Pixel
    y: Pixel
    radius: Pixel
    axis_deg: Figure
    inboard: Pixel
    outboard: Pixel


class MarkPhoto(OverlayFigures):
    """Where a mark was read off a kept photo."""

    photo_id: UUID


Note = Annotated[Text, Field(max_length=200)]


Count = Annotated[int, Field(strict=True, ge=0, le=999)]


class PartFigures(Strict):
    """One part of the hot stack: height (in), material, rise of its mean (K), half-widths."""

    height_in: Figure
    material: Material
    rise_k: Figure
    within_in: Figure = 0.0
    within_k: Figure = 0.0


class PlanFigures(Strict):
    """How rods are decided; materials None leave the engine's growth out."""

    strategy: Strategy = "kinds"
    tolerance_in: Figure | None = None
    reach_turns: Figure | None = None
    block: Material | None = None
    head: Material | None = None
    parts: dict[PartName, PartFigures] = {}


class TubeFigures(Strict):
    diameter_in: Figure = 0.3125
    wall_in: Figure = 0.080
    form: Form = "one_piece"


class RodFigures(TubeFigures):
    """The rod: tube, hardening, open spring force (lbf), room in the head, cutting from tube."""

    hardened: bool = False
    spring_lbf: Figure | None = None
    others: Annotated[list[TubeFigures], Field(max_length=3)] = []
    trial_diameter_in: Figure | None = None
    clearance_in: Figure | None = None
    wanted_clearance_in: Figure = 0.030
    sample_overall_in: Figure | None = None
    sample_tube_in: Figure | None = None
    bar_in: Figure = 72.0
    kerf_in: Figure = 0.060
    cut_tolerance_in: Figure = 0.005


class LimitFigures(Strict):
    """The least a check must find, by kind; None leaves the trade's figure."""

    intake_in: Figure | None = None
    exhaust_in: Figure | None = None


class StageFigures(Strict):
    """One stage: a torque, or an angle to turn on by."""

    value: Figure | None = None
    unit: TorqueUnit = "lbf_ft"
    angle_deg: Annotated[Figure, Field(ge=0, le=720)] | None = None


class FastenerFigures(Strict):
    name: Name
    note: Note = ""
    stages: Annotated[list[StageFigures], Field(min_length=1, max_length=6)]


class TorqueFigures(Strict):
    """The torque card, from the maker's sheet."""

    fasteners: Annotated[list[FastenerFigures], Field(max_length=12)] = []


Limits = dict[CheckName, LimitFigures]


class EngineFigures(Strict):
    """Numbering, firing order, valve orders; ``intervals_deg`` add up to 720."""

    bank_angle_deg: Figure
    numbering: Numbering
    first_bank: Side
    rotation: Rotation
    firing_order: Annotated[list[Cylinder], Field(max_length=16)]
    intervals_deg: Annotated[list[Figure], Field(max_length=16)]
    valve_orders: Annotated[list[Annotated[Text, Field(max_length=32)]], Field(max_length=2)]


class LobeFigures(Strict):
    """One lobe of a cam card: durations in crank degrees, lifts in inches."""

    advertised_deg: Figure
    advertised_at_in: Figure
    duration_050_deg: Figure
    lobe_lift_in: Figure
    base_circle_in: Figure | None = None


class CamFigures(Strict):
    """A cam card: ICL in crank degrees after TDC, LSA in cam degrees."""

    intake: LobeFigures
    exhaust: LobeFigures
    icl_deg: Figure
    lsa_deg: Figure


class KnownRod(Strict):
    """A rod that was right before: its length and preload, and how well they are known."""

    rod_in: Figure
    preload_in: Figure
    within_in: Figure = 0.0


class ChangeFigures(Strict):
    """One change, up by so much for intakes and exhausts, known within ``within_in``."""

    intake_in: Figure = 0.0
    exhaust_in: Figure = 0.0
    within_in: Figure = 0.0


class PriorFigures(Strict):
    """The last known rods in their convention, and what changed since."""

    convention: Convention = "theoretical"
    intake: KnownRod | None = None
    exhaust: KnownRod | None = None
    changes: dict[Change, ChangeFigures] = {}


class MeasuredFigure(Strict):
    """A dimension as the builder measured it, and its standard uncertainty."""

    value: Figure
    u: Figure


class GeometryFigures(Strict):
    """A kind's rockers: what is measured of them; the rest starts from usual figures.

    Angles are from the valve stem towards outboard; ``net_lift_in`` at the valve
    stands in for a cam card.
    """

    tip: Tip = "roller"
    stem_in: Figure = 0.3415
    lifter_deg: Annotated[Figure, Field(ge=-60, le=60)] = 0.0
    offset_in: Figure = 0.0
    net_lift_in: Figure | None = None
    school: MarkSchool = "mid_lift"
    shim_step_in: Figure = 0.005
    measured: dict[Dimension, MeasuredFigure] = {}


class RockerGeometry(Strict):
    intake: GeometryFigures | None = None
    exhaust: GeometryFigures | None = None
