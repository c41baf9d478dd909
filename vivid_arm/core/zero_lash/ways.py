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
from vivid_arm.core.words import Saying, say
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
    tab: Saying
    words: Saying
    ask: Saying
    how: Saying
    reads: Reads
    column: Column
    field: str
    tool: Literal["caliper", "indicator"] | None
    rod: Literal["must", "may", "none"]
    fastener: bool
    measure: Callable[[Figures], Measure]
    formula: Saying
    numbers: Saying

    @property
    def name(self) -> str:
        """What the trade calls it."""
        return say(METHODS[self.code])

    def worked_out(self, figures: Figures) -> Measure:
        """What a measurement gives. Raises InputError for a figure missing or out of range."""
        self._check(figures)
        return self.measure(figures)

    def _check(self, figures: Figures) -> None:
        value = getattr(figures, self.column)
        if value is None:
            raise _missing(self.column, say(self.ask))
        if self.reads in ("length", "stack"):
            check_range(value, FIELDS[self.field])
        for reading in figures.repeats if self.reads == "lengths" else ():
            check_range(reading, FIELDS[self.field])
        if self.rod == "must" and figures.rod_in is None:
            raise InputError(
                "rod",
                say("The rod's length is empty"),
                expected=say("a length"),
                remedy=say("Without it the reading tells no zero-lash length"),
                code="empty",
            )
        if figures.rod_in is not None:
            check_range(figures.rod_in, FIELDS["rod_length"])
        if self.fastener:
            check_range(figures.pitch_in, FIELDS["thread_pitch"])


def _missing(field: str, ask: str) -> InputError:
    return InputError(
        field, say("{ask}: nothing was read", ask=ask), expected=say("a value"), code="empty"
    )


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
            "extend",
            Saying("Extend"),
            Saying("Extend"),
            Saying("Readings, several parted by blanks"),
            Saying(
                "Rocker at its torque. Extend the rod until it just touches, take it out unturned."
            ),
            "lengths",
            "repeats",
            "rod_length",
            "caliper",
            "none",
            False,
            _extend,
            Saying("zero lash = mean of the readings"),
            Saying("{read} → {{z}}"),
        ),
        MeasuringWay(
            "turns",
            Saying("Turns"),
            Saying("Turns"),
            Saying("Turns, first drag to seated"),
            Saying(
                "A real rod, rocker on its stand. Count until seated, not the stretch to torque. "
                "Usual: 1/2 to 1 1/2; two bolts of one rocker as 1/2 and 3/4."
            ),
            "turns",
            "turns",
            "turns",
            None,
            "may",
            True,
            _turns,
            Saying("preload = turns × pitch × (1 + 1/R0); zero lash = rod − preload"),
            Saying("{turns} × {{t}} × (1 + 1/{R}) = {{p}}; {{rod}} − {{p}} = {{z}}"),
        ),
        MeasuringWay(
            "indicator",
            Saying("Indicator"),
            Saying("Indicator"),
            Saying("Rod pushed, from zero lash to seated"),
            Saying(
                "Indicator in line with the rod, zeroed at zero lash; draw the bolts down evenly."
            ),
            "length",
            "push_in",
            "push",
            "indicator",
            "may",
            False,
            _indicator,
            Saying("preload = travel of the rod; zero lash = rod − preload"),
            Saying("{{p}}; {{rod}} − {{p}} = {{z}}"),
        ),
        MeasuringWay(
            "gap_short",
            Saying("Gap"),
            Saying("Rod too short"),
            Saying("Gap at the tip, feelers added up"),
            Saying("A real rod that is too short. Pull the rocker onto the rod, gauge the tip."),
            "stack",
            "gap_in",
            "gap",
            None,
            "must",
            False,
            _short,
            Saying("zero lash = rod + gap / R0"),
            Saying("{{rod}} + {{g}} / {R} = {{z}}"),
        ),
        MeasuringWay(
            "gap_bottomed",
            Saying("Gap"),
            Saying("Lifter bottomed"),
            Saying("Gap at the tip, lifter bottomed"),
            Saying(
                "Lifter empty and pushed to its bottom. Pull the rocker onto the "
                "rod, gauge the tip."
            ),
            "stack",
            "gap_in",
            "gap",
            None,
            "may",
            False,
            _bottomed,
            Saying("preload = travel − gap / R0; zero lash = rod − preload"),
            Saying("{{T}} − {{g}} / {R} = {{p}}; {{rod}} − {{p}} = {{z}}"),
        ),
    )
}
