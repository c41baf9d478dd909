"""What is seen of one mark at one setting, with how well each thing can be read.

A mark is read with a caliper, by a photo, or by eye: where it lies and how wide it looks, a
reading of wide uncertainty. A mark at rest, no turn made, tells where the closed valve is
touched and nothing of the sweep.

Source: common practice put in figures by us.
"""

from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, figure, say

End = Literal["inboard", "outboard"]
SIDE_WORDS: dict[End, Saying] = {"inboard": Saying("inboard"), "outboard": Saying("outboard")}
AngleTool = Literal["square", "inclinometer", "laser", "phone", "heights"]
EyePlace = Literal["off_inboard", "inboard", "centred", "outboard", "off_outboard"]
EyeWidth = Literal["narrow", "usual", "wide"]

ANGLE_U_DEG: dict[AngleTool, float] = {
    "square": 0.6, "inclinometer": 0.25, "laser": 0.15, "phone": 0.5, "heights": 0.3,
}  # fmt: skip
EDGE_U_IN = 0.003
LIFT_U_IN = 0.002
PLACE_BY_EYE_IN: dict[EyePlace, tuple[float, float]] = {
    "off_inboard": (-0.110, 0.050), "inboard": (-0.060, 0.030), "centred": (0.0, 0.015),
    "outboard": (0.060, 0.030), "off_outboard": (0.110, 0.050),
}  # fmt: skip
"""Where a mark's middle lies by eye, from the tip's middle, and its standard uncertainty."""
WIDTH_BY_EYE_IN: dict[EyeWidth, tuple[float, float]] = {
    "narrow": (0.040, 0.010), "usual": (0.065, 0.015), "wide": (0.110, 0.030),
}  # fmt: skip
_OFF_U_IN = 0.005

_LIMITS = (
    ("inboard_in", Saying("Inboard edge"), -0.4, 0.4, " in"),
    ("outboard_in", Saying("Outboard edge"), -0.4, 0.4, " in"),
    ("width_in", Saying("Width of the mark"), 0.0, 0.5, " in"),
    ("rest_in", Saying("Mark at rest"), -0.4, 0.4, " in"),
    ("angle_deg", Saying("Angle at half lift"), -40.0, 40.0, "°"),
    ("lift_in", Saying("Net lift"), 0.0, 1.2, " in"),
    ("sink_in", Saying("The plunger's sink"), 0.0, 0.3, " in"),
)


@dataclass(frozen=True)
class SeenMark:
    """One setting and what was seen there; inches, edges from the tip's middle, outboard positive.

    ``setting_in`` is the rod's centre length on a stud, else the shim under the
    fulcrum. ``closed_end`` is the end of the mark where the closed valve stands.
    ``off`` is the side on which the mark runs off the tip, ``rest_in`` the middle of a mark
    made at rest, ``place`` and ``wide`` what the eye alone tells. ``lift_in`` is the net lift
    at the valve with light springs, ``angle_deg`` the arm above the perpendicular at half of
    it; ``sink_in`` how far the plunger sinks at full lift. Each value with its standard
    uncertainty; ``number`` that of the try in the log, 0 for none.
    """

    setting_in: float
    inboard_in: float | None = None
    outboard_in: float | None = None
    width_in: float | None = None
    off: End | None = None
    rest_in: float | None = None
    place: EyePlace | None = None
    wide: EyeWidth | None = None
    sink_in: float = 0.0
    closed_end: End | None = None
    angle_deg: float | None = None
    lift_in: float | None = None
    edge_u_in: float = EDGE_U_IN
    angle_u_deg: float = ANGLE_U_DEG["inclinometer"]
    lift_u_in: float = LIFT_U_IN
    number: int = 0

    def __post_init__(self) -> None:
        if self.inboard_in is not None and self.outboard_in is not None:
            if self.inboard_in >= self.outboard_in:
                raise InputError(
                    "outboard_in",
                    say(
                        "The mark's outboard edge ({outboard}) is not outboard of its inboard edge "
                        "({inboard})",
                        outboard=figure(self.outboard_in, "+.3f"),
                        inboard=figure(self.inboard_in, "+.3f"),
                    ),
                    received=self.outboard_in,
                    expected=say("above {inboard} in", inboard=figure(self.inboard_in, "+.3f")),
                    remedy=say("Outboard is away from the fulcrum; swap the two edges"),
                    code="edges_swapped",
                )
            if self.width_in is not None:
                raise InputError(
                    "width_in",
                    say("Both edges are given: the width follows from them"),
                    remedy=say("Leave the width empty"),
                    code="too_much",
                )
        for name, label, low, high, unit in _LIMITS:
            value = getattr(self, name)
            if value is not None:
                within(name, say(label), value, low, high, unit, remedy=say("Check unit and sign"))
        if not self.seen:
            raise InputError(
                "mark",
                say("Nothing was seen at this try"),
                remedy=say("Give the mark's edges, its width, the angle or the net lift"),
                code="empty",
            )

    @property
    def edges_in(self) -> tuple[float, float] | None:
        """Both edges; None where one was not seen."""
        if self.inboard_in is None or self.outboard_in is None:
            return None
        return self.inboard_in, self.outboard_in

    @property
    def read_width_in(self) -> float | None:
        """The mark's width as measured."""
        return self.width_in if self.edges_in is None else self.edges_in[1] - self.edges_in[0]

    @property
    def read_middle_in(self) -> float | None:
        """The mark's middle as measured or seen."""
        if self.edges_in is not None:
            return sum(self.edges_in) / 2
        return None if self.place is None else PLACE_BY_EYE_IN[self.place][0]

    @property
    def runs_off(self) -> bool:
        """Whether the mark leaves the tip: how far is not seen."""
        return self.off is not None or (self.place or "").startswith("off_")

    @property
    def sweeps(self) -> bool:
        """Whether something of the sweep was seen, not only an angle, a lift or a rest."""
        of_sweep = {"inboard", "outboard", "width", "middle", "off_inboard", "off_outboard"}
        return any(name in of_sweep for name, _, _ in self.seen)

    @property
    def seen(self) -> tuple[tuple[str, float, float], ...]:
        """What was measured: name, value, standard uncertainty."""
        width_u = self.edge_u_in * 2**0.5
        rows = [
            ("inboard", self.inboard_in, self.edge_u_in),
            ("outboard", self.outboard_in, self.edge_u_in),
            ("width", self.width_in, width_u),
            ("closed", self.rest_in, self.edge_u_in),
            ("angle", self.angle_deg, self.angle_u_deg),
            ("lift", self.lift_in, self.lift_u_in),
        ]
        if self.off is not None:
            rows.append((f"off_{self.off}", 0.0, _OFF_U_IN))
        if self.place is not None:
            rows.append(("middle", *PLACE_BY_EYE_IN[self.place]))
        if self.wide is not None and self.read_width_in is None:
            rows.append(("width", *WIDTH_BY_EYE_IN[self.wide]))
        return tuple((name, value, u) for name, value, u in rows if value is not None)
