"""The shapes of the JSON columns: set-up figures of the engine, the rocker, the rod, the checks.

Lengths are inches unless a name says otherwise.
"""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import AfterValidator, ConfigDict, Field

from vivid_arm.core.engine.layout import Numbering, Rotation, Side, ValveKind
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.heads.mistakes import LifterState
from vivid_arm.core.rocker.correction import MarkSchool
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.seen import AngleTool, End, EyePlace, EyeWidth
from vivid_arm.core.rocker.sheet import Dimension
from vivid_arm.core.rods.grouping import Strategy
from vivid_arm.core.rods.growth import Material, PartName
from vivid_arm.core.rods.preload import TurnsRule, TurnsWindow
from vivid_arm.core.rods.strength import Form
from vivid_arm.core.sign_off.checks import CheckName
from vivid_arm.core.sign_off.torque import TorqueUnit
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.hand import USUAL_HANDS
from vivid_arm.core.zero_lash.predict import Change
from vivid_arm.records.fields import Cylinder, Figure, InField, Line, Name, Strict, Text


def _whole(weights: list[float]) -> list[float]:
    if len(weights) != len(USUAL_HANDS) or abs(sum(weights) - 1) > 0.01:
        raise ValueError(
            say("{usual_hands} shares of one are wanted", usual_hands=len(USUAL_HANDS))
        )
    return weights


Weights = Annotated[
    list[Annotated[Figure, Field(ge=0, le=1)]], Field(max_length=200), AfterValidator(_whole)
]
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


class PhotoGuess(Strict):
    """The first guess on a photo: where tip and mark seem to be, whether clearly, in words."""

    overlay: OverlayFigures | None
    clear: bool
    said: Text


class MarkPhoto(OverlayFigures):
    """Where a mark was read off a kept photo."""

    photo_id: UUID


Note = Annotated[Line, Field(max_length=200)]


Count = Annotated[int, Field(strict=True, ge=0, le=999)]


class PartFigures(Strict):
    """One part of the hot stack: height (in), material, rise of its mean (K), half-widths."""

    height_in: Annotated[Figure, InField("part_height")]
    material: Material
    rise_k: Figure
    within_in: Figure = 0.0
    within_k: Figure = 0.0


MOST_LENGTHS = 60


class RodPlanFigures(Strict):
    """How rods are decided; materials None leave the engine's growth out.

    ``grown_in``: how preload moves from cold to hot as the builder read it on the engine.
    ``lengths_in``: lengths that can be had, in the order's convention, where not every step can.
    ``odd_one_in``: of so many valves one is odd in the shop's own engines.
    """

    strategy: Strategy = "kinds"
    tolerance_in: Annotated[Figure, InField("tolerance")] | None = None
    reach_turns: Figure | None = None
    block: Material | None = None
    head: Material | None = None
    parts: dict[PartName, PartFigures] = {}
    grown_in: dict[ValveKind, Annotated[Figure, Field(ge=-0.1, le=0.1)]] = {}
    lengths_in: Annotated[
        list[Annotated[Figure, Field(ge=3, le=16)]], Field(max_length=MOST_LENGTHS)
    ] = []
    odd_one_in: Annotated[int, Field(ge=2, le=1000)] | None = None


class TubeFigures(Strict):
    diameter_in: Annotated[Figure, InField("rod_diameter")] = 0.3125
    wall_in: Annotated[Figure, InField("wall")] = 0.080
    form: Form = "one_piece"


class RodFigures(TubeFigures):
    """The rod: tube, hardening, open spring force (lbf), room in the head, cutting from tube."""

    hardened: bool = False
    guide_plates: bool = False
    spring_lbf: Figure | None = None
    others: Annotated[list[TubeFigures], Field(max_length=3)] = []
    trial_diameter_in: Annotated[Figure, InField("rod_diameter")] | None = None
    clearance_in: Annotated[Figure, InField("clearance")] | None = None
    wanted_clearance_in: Annotated[Figure, InField("clearance")] = 0.030
    sample_overall_in: Annotated[Figure, InField("rod_length")] | None = None
    sample_tube_in: Annotated[Figure, InField("tube")] | None = None
    bar_in: Annotated[Figure, InField("bar")] = 72.0
    kerf_in: Annotated[Figure, InField("kerf")] = 0.060
    cut_tolerance_in: Annotated[Figure, InField("tolerance")] = 0.005


class LimitFigures(Strict):
    """The least a check must find, by kind; None leaves the trade's figure."""

    intake_in: Annotated[Figure, InField("clearance")] | None = None
    exhaust_in: Annotated[Figure, InField("clearance")] | None = None

    def of(self, kind: ValveKind) -> float | None:
        """A kind's own limit, inches."""
        return self.intake_in if kind == "intake" else self.exhaust_in


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


class StartingFigures(Strict):
    """What the shop had learned from its engines when this build was set to start from it.

    ``factor``: R0 over the catalogue's ratio, with the standard uncertainty of the next
    engine's, from ``engines``. ``hands``: how likely each of the usual hands is, as the engines
    that ``person`` read tell it.
    """

    factor: Annotated[Figure, Field(ge=0.7, le=1.5)] | None = None
    factor_u: Annotated[Figure, Field(gt=0, le=0.5)] | None = None
    engines: Annotated[int, Field(strict=True, ge=0, le=100_000)] = 0
    person: Annotated[Line, Field(max_length=60)] = ""
    hands: Weights | None = None
    hand_engines: Annotated[int, Field(strict=True, ge=0, le=100_000)] = 0


class KindLesson(Strict):
    """What one kind of valves of a build tells: lengths as read, the prediction, R0; inches.

    ``doubted`` valves are left out. ``r0`` with its standard uncertainty where it was measured,
    comes from the geometry or from pairs of gaps.
    """

    lengths_in: list[Figure] = []
    predicted_in: Figure | None = None
    predicted_u_in: Figure | None = None
    catalogue: Figure
    r0: Figure | None = None
    r0_u: Figure | None = None


class Lesson(Strict):
    """What a build tells the shop. ``hand``: how its trials weigh each of the usual hands.

    Logarithms; empty where nothing tells. ``person``: who read it, where one did alone.
    """

    intake: KindLesson
    exhaust: KindLesson
    hand: list[Figure] = []
    person: Annotated[Line, Field(max_length=200)] = ""


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

    def lobe(self, kind: ValveKind) -> LobeFigures:
        """A kind's lobe."""
        return self.intake if kind == "intake" else self.exhaust


class KnownRod(Strict):
    """A rod that was right before: its length and preload, and how well they are known."""

    rod_in: Annotated[Figure, InField("rod_length")]
    preload_in: Annotated[Figure, InField("preload")]
    within_in: Figure = 0.0


class ChangeFigures(Strict):
    """One change, up by so much for intakes and exhausts, known within ``within_in``."""

    intake_in: Figure = 0.0
    exhaust_in: Figure = 0.0
    within_in: Figure = 0.0

    def by_in(self, kind: ValveKind) -> float:
        """What went up for a kind, inches."""
        return self.intake_in if kind == "intake" else self.exhaust_in


class PriorFigures(Strict):
    """The last known rods in their convention, and what changed since."""

    convention: Convention = "theoretical"
    intake: KnownRod | None = None
    exhaust: KnownRod | None = None
    changes: dict[Change, ChangeFigures] = {}

    def rod(self, kind: ValveKind) -> KnownRod | None:
        """A kind's last known rod."""
        return self.intake if kind == "intake" else self.exhaust


class FinalFigures(Strict):
    """What the final engine has otherwise than it was measured with, and how it was measured.

    ``measured_with``: gasket, springs, torque, in the builder's words; ``lifter``: its state
    while measuring, None where nobody said.
    """

    measured_with: Annotated[Text, Field(max_length=200)] = ""
    lifter: LifterState | None = None
    changes: dict[Change, ChangeFigures] = {}


class TurnsFigures(Strict):
    """A preload window held in turns of the fastener, by the plain or the lever rule."""

    low: Annotated[Figure, Field(ge=0, le=5)]
    high: Annotated[Figure, Field(ge=0, le=5)]
    rule: TurnsRule = "lever"

    @property
    def window(self) -> TurnsWindow:
        return TurnsWindow(self.low, self.high, self.rule)


class MeasuredFigure(Strict):
    """A dimension as the builder measured it, and its standard uncertainty."""

    value: Figure
    u: Figure


class GeometryFigures(Strict):
    """A kind's rockers: what is measured of them; the rest starts from usual figures.

    Angles are from the valve stem towards outboard; ``net_lift_in`` at the valve
    stands in for a cam card. ``fulcrum_in`` is the fulcrum's distance from the stem's
    axis; ``across_by_design`` where a stock rocker runs off the tip's middle sideways.
    """

    tip: Tip = "roller"
    stem_in: Annotated[Figure, InField("tip_diameter")] = 0.3415
    lifter_deg: Annotated[Figure, Field(ge=-60, le=60)] = 0.0
    offset_in: Annotated[Figure, InField("offset")] = 0.0
    net_lift_in: Annotated[Figure, InField("net_lift")] | None = None
    school: MarkSchool = "mid_lift"
    shim_step_in: Annotated[Figure, InField("shim_step")] = 0.005
    fulcrum_in: Annotated[Figure, InField("arm")] | None = None
    across_by_design: bool = False
    measured: dict[Dimension, MeasuredFigure] = {}


class RockerGeometry(Strict):
    intake: GeometryFigures | None = None
    exhaust: GeometryFigures | None = None

    def of(self, kind: ValveKind) -> GeometryFigures | None:
        """A kind's rockers; None where nothing is entered."""
        return self.intake if kind == "intake" else self.exhaust


class SeenFigures(Strict):
    """What was seen of one mark. Edges count from the tip's middle or its inboard edge.

    ``off`` is the side on which it runs off the tip, ``at_rest`` where no turn was made,
    ``place`` and ``wide`` what the eye tells, ``across_in`` its middle sideways,
    ``sink_in`` how far the plunger sinks, ``screw`` the adjuster's turns from seated.
    """

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    measured_from: Annotated[Literal["middle", "edge"], Field(alias="from")] = "middle"
    angle_by: AngleTool = "inclinometer"
    inboard_in: Figure | None = None
    outboard_in: Figure | None = None
    width_in: Figure | None = None
    off: End | None = None
    at_rest: bool = False
    place: EyePlace | None = None
    wide: EyeWidth | None = None
    across_in: Figure | None = None
    sink_in: Figure | None = None
    screw: Figure | None = None
    closed_end: End | None = None
    angle_deg: Figure | None = None
    lift_in: Figure | None = None
    real_lift_in: Figure | None = None
    pairs: list[tuple[Figure, Figure]] = []
    photo: MarkPhoto | None = None


class OrderedLine(Strict):
    """Rods of one length in an order: bought or from the box, in the order's convention.

    ``theirs_in`` is the supplier's own nearest length, ``gives_in`` what that brings here.
    """

    length_in: Figure
    source: Literal["box", "bought"]
    box_id: UUID | None = None
    quantity: Count
    valves: list[str]
    theirs_in: Figure | None = None
    gives_in: Figure | None = None

    @property
    def given_in(self) -> float:
        """The length this line brings: the supplier's nearest, or as wanted."""
        return self.length_in if self.gives_in is None else self.gives_in


class MeasuredRod(Strict):
    """A received rod as it measured: as typed, inches, the convention it was measured in.

    A trial rod has what its trial showed, on which valve, and what was seen.
    """

    raw: Note
    length_in: Figure
    convention: Convention
    tried: Literal["fits", "too long", "too short"] | None = None
    tried_on: Annotated[Line, Field(max_length=4)] = ""
    seen: Note = ""


LobeTable = Annotated[list[tuple[Figure, Figure]], Field(min_length=2, max_length=2000)]
LobeTables = dict[ValveKind, LobeTable]
Repeats = Annotated[list[Figure], Field(min_length=1, max_length=20)]
