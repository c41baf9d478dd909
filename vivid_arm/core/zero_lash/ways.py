"""Every way of measuring beside the bracket, an entry each: what it reads, gives and says.

A new way is its function in ``methods``, its code in ``Method``, and its entry here; the log, the
interface, the files, the opened figure and the page follow from the entry.

Source: see ``methods``.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.entry.lengths import FIELDS, check_range
from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING, Feeling
from vivid_arm.core.zero_lash.methods import (
    METHODS,
    Measure,
    Method,
    Source,
    extended,
    fastener_turns,
    gap_bottomed,
    gap_short,
    indicator_push,
)

NOTHING_STATED = Source()
Reads = Literal["lengths", "turns", "length", "stack"]
Column = Literal["repeats", "turns", "push_in", "gap_in"]


@dataclass(frozen=True)
class Figures:
    """What a measurement was read as: inches and turns; a way takes what it needs.

    ``own`` is what read it, ``rod`` what the known rod was measured with; ``number`` its
    place in the log. ``repeats`` are repeated lengths, or the turns of each bolt of one rocker.
    ``plain_rule``: the preload window is held in turns by the plain rule.
    """

    ratio: float
    repeats: tuple[float, ...] = ()
    turns: float | None = None
    push_in: float | None = None
    gap_in: float | None = None
    pitch_in: float = 0.0
    travel_in: float = 0.0
    rod_in: float | None = None
    own: Source = NOTHING_STATED
    rod: Source = NOTHING_STATED
    number: int = 1
    feeling: Feeling = USUAL_FEELING
    plain_rule: bool = False


@dataclass(frozen=True)
class MeasuringWay:
    """One way. ``column`` keeps what is read, as ``reads`` says, within the core's ``field``.

    ``tool`` is the instrument that reads it, where one must; ``rod`` whether the known rod's
    length must, may or cannot be given. ``tab`` groups ways on the page; ``ask`` is the
    field's label, ``how`` the work in a sentence. ``formula`` and ``numbers`` are the opened
    figure's.
    """

    code: Method
    tab: str
    words: str
    ask: str
    how: str
    reads: Reads
    column: Column
    field: str
    tool: Literal["caliper", "indicator"] | None
    rod: Literal["must", "may", "none"]
    fastener: bool
    measure: Callable[[Figures], Measure]
    formula: str
    numbers: str

    @property
    def name(self) -> str:
        """What the trade calls it."""
        return METHODS[self.code]

    def worked_out(self, figures: Figures) -> Measure:
        """What a measurement gives. Raises InputError for a figure missing or out of range."""
        self._check(figures)
        return self.measure(figures)

    def _check(self, figures: Figures) -> None:
        value = getattr(figures, self.column)
        if value is None:
            raise _missing(self.column, self.ask)
        if self.reads in ("length", "stack"):
            check_range(value, FIELDS[self.field])
        for reading in figures.repeats if self.reads == "lengths" else ():
            check_range(reading, FIELDS[self.field])
        if self.rod == "must" and figures.rod_in is None:
            raise InputError(
                "rod",
                "The rod's length is empty",
                expected="a length",
                remedy="Without it the reading tells no zero-lash length",
                code="empty",
            )
        if figures.rod_in is not None:
            check_range(figures.rod_in, FIELDS["rod_length"])
        if self.fastener:
            check_range(figures.pitch_in, FIELDS["thread_pitch"])


def _missing(field: str, ask: str) -> InputError:
    return InputError(field, f"{ask}: nothing was read", expected="a value", code="empty")


def _extend(f: Figures) -> Measure:
    return extended(f.repeats, f.own, f.number)


def _turns(f: Figures) -> Measure:
    return fastener_turns(
        f.turns or 0.0, f.pitch_in, f.ratio, f.rod_in, f.rod, f.number, f.feeling,
        plain_rule=f.plain_rule, bolts=f.repeats,
    )  # fmt: skip


def _indicator(f: Figures) -> Measure:
    return indicator_push(f.push_in or 0.0, f.own, f.rod_in, None, f.number)


def _short(f: Figures) -> Measure:
    return gap_short(f.gap_in or 0.0, f.rod_in or 0.0, f.ratio, f.rod, f.number, f.feeling)


def _bottomed(f: Figures) -> Measure:
    return gap_bottomed(f.gap_in or 0.0, f.travel_in, f.ratio, f.rod_in, f.rod, f.number, f.feeling)


MEASURING_WAYS: Mapping[Method, MeasuringWay] = {
    way.code: way
    for way in (
        MeasuringWay(
            "extend", "Extend", "Extend",
            "Readings, several parted by blanks",
            "Rocker at its torque. Extend the rod until it just touches, take it out unturned.",
            "lengths", "repeats", "rod_length", "caliper", "none", False, _extend,
            "zero lash = mean of the readings", "{read} → {{z}}",
        ),
        MeasuringWay(
            "turns", "Turns", "Turns",
            "Turns, first drag to seated",
            "A real rod, rocker on its stand. Count until seated, not the stretch to torque. "
            "Usual: 1/2 to 1 1/2; two bolts of one rocker as 1/2 and 3/4.",
            "turns", "turns", "turns", None, "may", True, _turns,
            "preload = turns × pitch × (1 + 1/R0); zero lash = rod − preload",
            "{turns} × {{t}} × (1 + 1/{R}) = {{p}}; {{rod}} − {{p}} = {{z}}",
        ),
        MeasuringWay(
            "indicator", "Indicator", "Indicator",
            "Rod pushed, from zero lash to seated",
            "Indicator in line with the rod, zeroed at zero lash; draw the bolts down evenly.",
            "length", "push_in", "push", "indicator", "may", False, _indicator,
            "preload = travel of the rod; zero lash = rod − preload",
            "{{p}}; {{rod}} − {{p}} = {{z}}",
        ),
        MeasuringWay(
            "gap_short", "Gap", "Rod too short",
            "Gap at the tip, feelers added up",
            "A real rod that is too short. Pull the rocker onto the rod, gauge the tip.",
            "stack", "gap_in", "gap", None, "must", False, _short,
            "zero lash = rod + gap / R0", "{{rod}} + {{g}} / {R} = {{z}}",
        ),
        MeasuringWay(
            "gap_bottomed", "Gap", "Lifter bottomed",
            "Gap at the tip, lifter bottomed",
            "Lifter empty and pushed to its bottom. Pull the rocker onto the rod, gauge the tip.",
            "stack", "gap_in", "gap", None, "may", False, _bottomed,
            "preload = travel − gap / R0; zero lash = rod − preload",
            "{{T}} − {{g}} / {R} = {{p}}; {{rod}} − {{p}} = {{z}}",
        ),
    )
}  # fmt: skip
