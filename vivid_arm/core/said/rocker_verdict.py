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
from vivid_arm.core.rocker.seen import SIDE_WORDS, SeenMark
from vivid_arm.core.rocker.sheet import DIMENSIONS
from vivid_arm.core.said.rocker import reading_ways, reading_words
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.core.words import Saying, figure, say, within_a_sentence

_TELLING_IN = 0.100
"""A change known no better than this is no figure to show."""
_OFF_SQUARE_IN = 0.030
_SHIM_STEP_IN = 0.060
_SIDE = {True: Saying("too low"), False: Saying("too high")}
_OTHER_PARTS = Saying(
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
        return say("Fulcrum {{e}} {side}, ± {{u}}.", side=_SIDE[self.found.best.error_in > 0])

    @property
    def thing(self) -> str:
        return say("rod") if self.stud else say("shim")

    @property
    def reading(self) -> str:
        """The reading to take next."""
        return self.then or say("Make a mark with another setting.")

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
        return say("good with about {value} %", value=min(round(100 * following.chance), 99))

    @property
    def wins(self) -> str:
        """What that reading wins."""
        return (
            say("The {thing} then asked for is {chance}.", thing=self.thing, chance=self.chance)
            if self.chance
            else ""
        )

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
        say("Nothing seen on this rocker yet."),
        say("From the dimensions alone the fulcrum's height is known to ± {u} (k = 2)."),
        say(
            "Marker on the tip, zero lash, light springs, solid lifter; turn two full turns; "
            "enter the mark."
        ),
    )


def _narrow(told: _Told) -> Verdict:
    doubt = cast(Narrow, told.said.doubt)
    return told.verdict(
        "conflict",
        say(
            "The mark of try {attempt} is narrower than this rocker can leave.",
            attempt=told.number(doubt.attempt),
        ),
        say("{w} was read; with this lift the arm sweeps {l}, film and all, wherever it stands."),
        say(
            "Were two whole turns made, with film on the tip? Strike it out and mark again; a mark "
            "made at rest has its own entry."
        ),
        smalls={"w": doubt.width_in, "l": doubt.least_in},
    )


def _sinks(told: _Told) -> Verdict:
    doubt = cast(Sinking, told.said.doubt)
    return told.verdict(
        "conflict",
        say("The plunger sinks, or the lobe is not the card's."),
        say(
            "Net lift {{h}} at try {attempt}, {{p}} expected: {value} %. The mark then "
            "stands as with a shorter rod.",
            attempt=told.number(doubt.attempt),
            value=figure(100 * doubt.lift_in / doubt.expected_in, ".0f"),
        ),
        say(
            "Use a solid lifter; or enter how far the plunger sinks: an indicator on it, or two "
            "rods of a known difference. Until then neither height nor R0 is taken from this "
            "mark."
        ),
        smalls={"h": doubt.lift_in, "p": doubt.expected_in},
    )


def _trend(told: _Told) -> Verdict:
    doubt = cast(LiftHunt, told.said.doubt)
    more = {True: say("a longer rod"), False: say("more shim")}[told.stud]
    less = {True: say("a shorter rod"), False: say("less shim")}[told.stud]
    (_, first), (_, last) = doubt.points[0], doubt.points[-1]
    return told.verdict(
        "conflict",
        say(
            "Lift grows with {more}; the geometry says the reverse.",
            more=more if doubt.rising > 0 else less,
        ),
        say(
            "{{f}} to {{t}} over {points} settings. What was measured is believed: the "
            "geometry's advice is withdrawn.",
            points=len(doubt.points),
        ),
        say("Go on the way the lift grows; check dimensions and the lobe's lift."),
        smalls={"f": first, "t": last},
    )


def _conflict(told: _Told) -> Verdict:
    doubt = cast(Clashing, told.said.doubt)
    name = _READINGS[doubt.reading]
    pulled = within_a_sentence(DIMENSIONS[doubt.dimension].words) if doubt.dimension else ""
    return told.verdict(
        "conflict",
        say(
            "The {name} of try {attempt} does not go with the rest.",
            name=name,
            attempt=told.number(doubt.attempt),
        ),
        say("It pulls the {pulled} off what was measured.", pulled=pulled)
        if pulled
        else say("No rocker of these dimensions gives all that was read."),
        say("Read it again; else correct a dimension, or strike the try out."),
    )


_READINGS = {
    "inboard": Saying("inboard edge"),
    "outboard": Saying("outboard edge"),
    "width": Saying("width"),
    "closed": Saying("mark at rest"),
    "angle": Saying("angle"),
    "lift": Saying("net lift"),
    "middle": Saying("place"),
    "off_inboard": Saying("mark off the edge"),
    "off_outboard": Saying("mark off the edge"),
}


def _good(told: _Told) -> Verdict:
    settled = told.said.settled
    assert settled is not None
    place, seen = _tried(told.found, settled.setting_in)
    what = _sits(told)
    stands = abs(settled.setting_in - float(told.correction.now.setting_in[0])) < 1e-9
    if not stands:
        what = say("Go back to the {thing} of {{s}}: its mark is good.", thing=told.thing)
    width = seen.read_width_in
    middle = seen.read_middle_in
    assert width is not None
    assert middle is not None
    return told.verdict(
        "settled",
        what,
        say(
            "Try {place}: mark {{w}} wide, {{m}} from the middle, clear of the edges. ",
            place=told.number(place),
        )
        + _perfect(told),
        _agreement(told.clash) or say("Keep this setting."),
        lengths={"s": settled.setting_in} if told.stud else {},
        smalls={"w": width, "m": abs(middle)}
        | ({} if told.stud else {"s": settled.setting_in})
        | _perfect_figures(told),
    )


def _sits(told: _Told) -> str:
    """Right, unless the arm stands well off square, whatever the mark."""
    off = abs(told.found.best.error_in) - 2 * told.found.best.error_u_in
    if off <= _OFF_SQUARE_IN:
        return say("The rocker sits right.")
    return say("The mark is good; the arm stands off square.")


def _perfect(told: _Told) -> str:
    """What a perfect setting would change, where it is known."""
    done = told.correction
    change = done.change_in
    if change is not None and abs(change) < 1e-6:
        return say("Nothing more is to be won.")
    if change is None or 2 * done.u_in >= abs(change):
        return say("How far a perfect one is off it, the tries do not tell.")
    return say("A perfect one would be {c} off it and win {n} of width.")


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
        say(
            "Not settled: the mark can mean {{e}} {side} or {{f}} {other_side}.",
            side=_SIDE[best.error_in > 0],
            other_side=_SIDE[other.error_in > 0],
        ),
        say("A mark's width tells how far it is off, not which way.")
        if best.error_in * other.error_in < 0
        else say("The tries can be understood in two ways."),
        _said(told.reading, told.ways, told.wins),
        smalls={"f": abs(other.error_in)},
    )


def _off(told: _Told) -> Verdict:
    seen = told.found.tries[-1]
    side = seen.off or (seen.place or "").removeprefix("off_")
    outboard = side == "outboard" or (not side and (seen.read_middle_in or 0.0) > 0)
    up = told.correction.toward or (-1 if outboard else 1)
    more = (-1 if outboard else 1) if side in ("inboard", "outboard") else up
    ways = {True: (say("longer"), say("shorter")), False: (say("more shim"), say("less shim"))}[
        told.stud
    ]
    way = ways[0] if more > 0 else ways[1]
    return told.verdict(
        "closing",
        say("About {{b}} {way}, then mark again.", way=way),
        say("The mark runs off the {side} edge: how far is not seen.", side=SIDE_WORDS[side])
        if side in SIDE_WORDS
        else say("No setting near this one serves, by one mark alone."),
        say(
            "Only a second setting, or the stand's measured distance, tells whether "
            "the stand is off."
        ),
        smalls={"b": BIG_STEP_IN if told.stud else _SHIM_STEP_IN},
    )


def _refused(told: _Told) -> Verdict:
    why = told.correction.refused or say("No setting that can be had leaves a good mark")
    return told.verdict(
        "outside", f"{why}.", f"{told.height} {_agreement(told.clash)}".strip(), say(_OTHER_PARTS)
    )


def _unsure(told: _Told) -> Verdict:
    done = told.correction
    change = abs(done.change_in or 0.0)
    read = told.reading
    then = say(", then {chance}", chance=told.chance) if told.chance else ""
    why = say("{height} The change would be {{c}}, ± {{x}} (k = 2).", height=told.height)
    return told.verdict(
        "closing",
        say("Not settled: {reading}", reading=within_a_sentence(read)),
        why if 2 * done.u_in <= _TELLING_IN else say("The tries do not tell how far yet."),
        _said(told.ways, say("Only then change the {thing}{then}.", thing=told.thing, then=then)),
        smalls={"c": change},
    )


def _try(told: _Told) -> Verdict:
    wanted = told.said.setting_in or 0.0
    change = wanted - float(told.correction.now.setting_in[0])
    stands = abs(change) < 1e-6
    setting = "{s}" if told.stud else say("{s} of shim")
    return told.verdict(
        "closing",
        say("Measure this mark's edges with a {setting}.", setting=setting)
        if stands
        else say("Try a {thing} of {{s}}, and mark it.", thing=told.thing),
        say("It is likelier good than not; another reading here would hardly make it surer."),
        say("Measure the edges and the angle there."),
        lengths={"s": wanted} if told.stud else {},
        smalls={} if told.stud else {"s": wanted},
    )


def _right(told: _Told) -> Verdict:
    done = told.correction
    change = abs(done.change_in or 0.0)
    flat = say(
        " {{c}} {stud} would win {{n}} of width.",
        stud=say("of rod") if told.stud else say("of shim"),
    )
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
    why = (
        say("It wins {n} of width.") if own else say("That is the likeliest to leave a good mark.")
    )
    rods, longer = _rods_follow(told, change)
    return told.verdict(
        "closing",
        _do_words(told.stud, change),
        f"{told.height} {why}{rods}",
        say("Then mark again. {clash}", clash=_agreement(told.clash)).strip(),
        smalls={"c": abs(change), "n": max(told.correction.wins_in, 0.0)} | longer,
    )


def _rods_follow(told: _Told, change_in: float) -> tuple[str, dict[str, float]]:
    """What a shim asks of the rods; nothing on a stud, where the rod is what is changed."""
    if told.stud:
        return "", {}
    now = float(told.correction.now.setting_in[0])
    longer = rods_longer_in(told.found, now, now + change_in)
    way = say("longer") if longer > 0 else say("shorter")
    return say(" Rods get about {{l}} {way} with it.", way=way), {"l": abs(longer)}


def _do_words(stud: bool, change_in: float) -> str:
    if stud:
        return say(
            "Take a rod {{c}} {change}.", change=say("longer") if change_in > 0 else say("shorter")
        )
    if change_in > 0:
        return say("Add {c} of shim under the stand.")
    return say("Take {c} out from under the stand: shims, or machining.")


def _agreement(clash: SchoolsConflict | None) -> str:
    if clash is None:
        return ""
    side = say("outboard") if clash.off_in > 0 else say("inboard")
    return say(
        "The mark then stands {side} of the middle: that is the stand's or the rocker's.", side=side
    )


_WORDS: dict[Finding, Callable[[_Told], Verdict]] = {
    "nothing": _nothing, "narrow": _narrow, "sinks": _sinks, "trend": _trend,
    "conflict": _conflict, "good": _good, "rivals": _rivals, "off": _off, "refused": _refused,
    "unsure": _unsure, "try": _try, "right": _right, "change": _change,
}  # fmt: skip
