"""What the tries of a rocker come to, in words: what, why, and what to do next.

Source: wording ours; what a mark means is common practice.
"""

from collections.abc import Callable
from typing import cast

from vivid_arm.core.rocker.correction import (
    BIG_STEP_IN,
    Correction,
    SchoolsConflict,
    rods_longer_in,
)
from vivid_arm.core.rocker.doubt import Clashing, LiftHunt, Narrow, Sinking
from vivid_arm.core.rocker.judged import Finding, RockerJudgement
from vivid_arm.core.rocker.marks import MarksFit
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import DIMENSIONS
from vivid_arm.core.said.rocker import reading_ways, reading_words
from vivid_arm.core.said.verdicts import Verdict

_TELLING_IN = 0.100
"""A change known no better than this is no figure to show."""
_OFF_SQUARE_IN = 0.030
_SHIM_STEP_IN = 0.060
_SIDE = {True: "too low", False: "too high"}
_OTHER_PARTS = (
    "Move the stand, take an offset or another rocker; ask a licensed machinist before cutting."
)


def rocker_verdict(
    found: MarksFit, correction: Correction, clash: SchoolsConflict | None, said: RockerJudgement
) -> Verdict:
    """Whether the rocker sits right, why, and what to do next."""
    return _WORDS[said.finding](_Told(found, correction, clash, said))


class _Told:
    """What the sentences are made of."""

    def __init__(
        self,
        found: MarksFit,
        correction: Correction,
        clash: SchoolsConflict | None,
        said: RockerJudgement,
    ) -> None:
        self.found, self.correction, self.clash, self.said = found, correction, clash, said
        self.stud = found.sheet.stud
        self.then, smalls, self.lengths = reading_words(said.reading, self.stud)
        self.smalls = smalls | {
            "e": abs(found.best.error_in),
            "u": 2 * found.best.error_u_in,
            "x": 2 * min(correction.u_in, 9.0),
        }

    def number(self, place: int) -> int:
        """A try's number in the log."""
        return self.found.tries[place].number or place + 1

    @property
    def height(self) -> str:
        return f"Fulcrum {{e}} {_SIDE[self.found.best.error_in > 0]}, ± {{u}}."

    @property
    def thing(self) -> str:
        return "rod" if self.stud else "shim"

    @property
    def reading(self) -> str:
        """The reading to take next."""
        return self.then or "Make a mark with another setting."

    @property
    def ways(self) -> str:
        """What that reading can be taken with."""
        return reading_ways(self.said.reading)

    @property
    def chance(self) -> str:
        """How likely what is asked for after it is good; empty where it would hardly settle it."""
        following = self.said.reading
        if following is None or following.chance < 0.5:
            return ""
        return f"good with about {min(round(100 * following.chance), 99)} %"

    @property
    def wins(self) -> str:
        """What that reading wins."""
        return f"The {self.thing} then asked for is {self.chance}." if self.chance else ""

    def verdict(
        self, state: str, what: str, why: str, then: str, **figures: dict[str, float]
    ) -> Verdict:
        return Verdict(
            state,  # type: ignore[arg-type]
            what,
            why,
            then,
            self.lengths | figures.get("lengths", {}),
            self.smalls | figures.get("smalls", {}),
        )


def _said(*sentences: str) -> str:
    return " ".join(filter(None, sentences))


def _nothing(told: _Told) -> Verdict:
    return told.verdict(
        "waiting",
        "Nothing seen on this rocker yet.",
        "From the dimensions alone the fulcrum's height is known to ± {u} (k = 2).",
        "Marker on the tip, zero lash, light springs, solid lifter; turn two full turns; "
        "enter the mark.",
    )


def _narrow(told: _Told) -> Verdict:
    doubt = cast(Narrow, told.said.doubt)
    return told.verdict(
        "conflict",
        f"The mark of try {told.number(doubt.attempt)} is narrower than this rocker can leave.",
        "{w} was read; with this lift the arm sweeps {l}, film and all, wherever it stands.",
        "Were two whole turns made, with film on the tip? Strike it out and mark again; a mark "
        "made at rest has its own entry.",
        smalls={"w": doubt.width_in, "l": doubt.least_in},
    )


def _sinks(told: _Told) -> Verdict:
    doubt = cast(Sinking, told.said.doubt)
    return told.verdict(
        "conflict",
        "The plunger sinks, or the lobe is not the card's.",
        f"Net lift {{h}} at try {told.number(doubt.attempt)}, {{p}} expected: "
        f"{100 * doubt.lift_in / doubt.expected_in:.0f} %. "
        "The mark then stands as with a shorter rod.",
        "Use a solid lifter; or enter how far the plunger sinks: an indicator on it, or two rods "
        "of a known difference. Until then neither height nor R0 is taken from this mark.",
        smalls={"h": doubt.lift_in, "p": doubt.expected_in},
    )


def _trend(told: _Told) -> Verdict:
    doubt = cast(LiftHunt, told.said.doubt)
    more = {True: "a longer rod", False: "more shim"}[told.stud]
    less = {True: "a shorter rod", False: "less shim"}[told.stud]
    (_, first), (_, last) = doubt.points[0], doubt.points[-1]
    return told.verdict(
        "conflict",
        f"Lift grows with {more if doubt.rising > 0 else less}; the geometry says the reverse.",
        f"{{f}} to {{t}} over {len(doubt.points)} settings. What was measured is believed: the "
        "geometry's advice is withdrawn.",
        "Go on the way the lift grows; check dimensions and the lobe's lift.",
        smalls={"f": first, "t": last},
    )


def _conflict(told: _Told) -> Verdict:
    doubt = cast(Clashing, told.said.doubt)
    name = _READINGS[doubt.reading]
    pulled = DIMENSIONS[doubt.dimension].words.lower() if doubt.dimension else ""
    return told.verdict(
        "conflict",
        f"The {name} of try {told.number(doubt.attempt)} does not go with the rest.",
        f"It pulls the {pulled} off what was measured."
        if pulled
        else "No rocker of these dimensions gives all that was read.",
        "Read it again; else correct a dimension, or strike the try out.",
    )


_READINGS = {
    "inboard": "inboard edge", "outboard": "outboard edge", "width": "width",
    "closed": "mark at rest", "angle": "angle", "lift": "net lift", "middle": "place",
    "off_inboard": "mark off the edge", "off_outboard": "mark off the edge",
}  # fmt: skip


def _good(told: _Told) -> Verdict:
    settled = told.said.settled
    assert settled is not None
    place, seen = _tried(told.found, settled.setting_in)
    what = _sits(told)
    stands = abs(settled.setting_in - float(told.correction.now.setting_in[0])) < 1e-9
    if not stands:
        what = f"Go back to the {told.thing} of {{s}}: its mark is good."
    width = seen.read_width_in
    middle = seen.read_middle_in
    assert width is not None
    assert middle is not None
    return told.verdict(
        "settled",
        what,
        f"Try {told.number(place)}: mark {{w}} wide, {{m}} from the middle, clear of the edges. "
        + _perfect(told),
        _agreement(told.clash) or "Keep this setting.",
        lengths={"s": settled.setting_in} if told.stud else {},
        smalls={"w": width, "m": abs(middle)}
        | ({} if told.stud else {"s": settled.setting_in})
        | _perfect_figures(told),
    )


def _sits(told: _Told) -> str:
    """Right, unless the arm stands well off square, whatever the mark."""
    off = abs(told.found.best.error_in) - 2 * told.found.best.error_u_in
    if off <= _OFF_SQUARE_IN:
        return "The rocker sits right."
    return "The mark is good; the arm stands off square."


def _perfect(told: _Told) -> str:
    """What a perfect setting would change, where it is known."""
    done = told.correction
    change = done.change_in
    if change is not None and abs(change) < 1e-6:
        return "Nothing more is to be won."
    if change is None or 2 * done.u_in >= abs(change):
        return "How far a perfect one is off it, the tries do not tell."
    return "A perfect one would be {c} off it and win {n} of width."


def _perfect_figures(told: _Told) -> dict[str, float]:
    done = told.correction
    return {"c": abs(done.change_in or 0.0), "n": max(done.wins_in, 0.0)}


def _tried(found: MarksFit, setting_in: float) -> tuple[int, SeenMark]:
    marks = [(i, t) for i, t in enumerate(found.tries) if t.setting_in == setting_in]
    return next((i, t) for i, t in reversed(marks) if t.edges_in is not None)


def _rivals(told: _Told) -> Verdict:
    best, other = told.found.best, told.found.rivals[0]
    return told.verdict(
        "closing",
        f"Not settled: the mark can mean {{e}} {_SIDE[best.error_in > 0]} or {{f}} "
        f"{_SIDE[other.error_in > 0]}.",
        "A mark's width tells how far it is off, not which way."
        if best.error_in * other.error_in < 0
        else "The tries can be understood in two ways.",
        _said(told.reading, told.ways, told.wins),
        smalls={"f": abs(other.error_in)},
    )


def _off(told: _Told) -> Verdict:
    seen = told.found.tries[-1]
    side = seen.off or (seen.place or "").removeprefix("off_")
    outboard = side == "outboard" or (not side and (seen.read_middle_in or 0.0) > 0)
    up = told.correction.toward or (-1 if outboard else 1)
    more = (-1 if outboard else 1) if side in ("inboard", "outboard") else up
    ways = {True: ("longer", "shorter"), False: ("more shim", "less shim")}[told.stud]
    way = ways[0] if more > 0 else ways[1]
    return told.verdict(
        "closing",
        f"About {{b}} {way}, then mark again.",
        f"The mark runs off the {side} edge: how far is not seen."
        if side in ("inboard", "outboard")
        else "No setting near this one serves, by one mark alone.",
        "Only a second setting, or the stand's measured distance, tells whether the stand is off.",
        smalls={"b": BIG_STEP_IN if told.stud else _SHIM_STEP_IN},
    )


def _refused(told: _Told) -> Verdict:
    why = told.correction.refused or "No setting that can be had leaves a good mark"
    return told.verdict(
        "outside", f"{why}.", f"{told.height} {_agreement(told.clash)}".strip(), _OTHER_PARTS
    )


def _unsure(told: _Told) -> Verdict:
    done = told.correction
    change = abs(done.change_in or 0.0)
    read = told.reading
    then = f", then {told.chance}" if told.chance else ""
    why = f"{told.height} The change would be {{c}}, ± {{x}} (k = 2)."
    return told.verdict(
        "closing",
        f"Not settled: {read[0].lower()}{read[1:]}",
        why if 2 * done.u_in <= _TELLING_IN else "The tries do not tell how far yet.",
        _said(told.ways, f"Only then change the {told.thing}{then}."),
        smalls={"c": change},
    )


def _try(told: _Told) -> Verdict:
    wanted = told.said.setting_in or 0.0
    change = wanted - float(told.correction.now.setting_in[0])
    stands = abs(change) < 1e-6
    setting = "{s}" if told.stud else "{s} of shim"
    return told.verdict(
        "closing",
        f"Measure this mark's edges with a {setting}."
        if stands
        else f"Try a {told.thing} of {{s}}, and mark it.",
        "It is likelier good than not; another reading here would hardly make it surer.",
        "Measure the edges and the angle there.",
        lengths={"s": wanted} if told.stud else {},
        smalls={} if told.stud else {"s": wanted},
    )


def _right(told: _Told) -> Verdict:
    done = told.correction
    change = abs(done.change_in or 0.0)
    flat = f" {{c}} {'of rod' if told.stud else 'of shim'} would win {{n}} of width."
    return told.verdict(
        "settled",
        _sits(told),
        told.height + (flat if change > 1e-6 else ""),
        _agreement(told.clash),
        smalls=_perfect_figures(told),
    )


def _change(told: _Told) -> Verdict:
    wanted = told.said.setting_in or 0.0
    change = wanted - float(told.correction.now.setting_in[0])
    rounded = told.correction.change_in
    own = rounded is not None and told.correction.exact_in == wanted
    if own and rounded is not None:
        change = rounded
    why = "It wins {n} of width." if own else "That is the likeliest to leave a good mark."
    rods, longer = _rods_follow(told, change)
    return told.verdict(
        "closing",
        _do_words(told.stud, change),
        f"{told.height} {why}{rods}",
        f"Then mark again. {_agreement(told.clash)}".strip(),
        smalls={"c": abs(change), "n": max(told.correction.wins_in, 0.0)} | longer,
    )


def _rods_follow(told: _Told, change_in: float) -> tuple[str, dict[str, float]]:
    """What a shim asks of the rods; nothing on a stud, where the rod is what is changed."""
    if told.stud:
        return "", {}
    now = float(told.correction.now.setting_in[0])
    longer = rods_longer_in(told.found, now, now + change_in)
    way = "longer" if longer > 0 else "shorter"
    return f" Rods get about {{l}} {way} with it.", {"l": abs(longer)}


def _do_words(stud: bool, change_in: float) -> str:
    if stud:
        return f"Take a rod {{c}} {'longer' if change_in > 0 else 'shorter'}."
    if change_in > 0:
        return "Add {c} of shim under the stand."
    return "Take {c} out from under the stand: shims, or machining."


def _agreement(clash: SchoolsConflict | None) -> str:
    if clash is None:
        return ""
    side = "outboard" if clash.off_in > 0 else "inboard"
    return f"The mark then stands {side} of the middle: that is the stand's or the rocker's."


_WORDS: dict[Finding, Callable[[_Told], Verdict]] = {
    "nothing": _nothing, "narrow": _narrow, "sinks": _sinks, "trend": _trend,
    "conflict": _conflict, "good": _good, "rivals": _rivals, "off": _off, "refused": _refused,
    "unsure": _unsure, "try": _try, "right": _right, "change": _change,
}  # fmt: skip
