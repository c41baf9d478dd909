"""Instruments of the bench: a checking rod counted in turns, a caliper read direct.

Source: a maker's limits as a rectangle, half-width / sqrt(3) (JCGM 100:2008, GUM, 4.3.7);
counting back to closed is common practice.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import ceil, floor, sqrt

from vivid_arm.core.entry.lengths import (
    FIELDS,
    LengthField,
    check_range,
    check_turns,
    format_length,
    format_small,
    format_turns,
    parse_length,
    parse_turns,
    typed_plainly,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Saying, Unit, say


@dataclass(frozen=True)
class Adjuster:
    """How finely and how far a trial length can be set, inches.

    ``anchor_in`` is where the settings are counted from, ``turn_in`` one full
    turn, ``resolution_in`` the smallest step, ``low_in``..``high_in`` the closed
    range. ``counted``: whether turns are counted, so that they are spoken of.
    """

    anchor_in: float
    turn_in: float
    resolution_in: float
    low_in: float
    high_in: float
    counted: bool = True

    def said(self, turns: str, share: float = 1.0) -> str:
        """So much of a turn in words, or as a length where no turns are counted."""
        return turns if self.counted else format_small(round(share * self.turn_in, 3))

    def snap(self, length_in: float, direction: int = 0) -> float:
        """The nearest setting (direction 0), or the next one down (-1) or up (+1), in range."""
        steps = (length_in - self.anchor_in) / self.resolution_in
        if direction < 0:
            whole = floor(steps + 1e-6)
        elif direction > 0:
            whole = ceil(steps - 1e-6)
        else:
            whole = round(steps)
        lowest = ceil((self.low_in - self.anchor_in) / self.resolution_in - 1e-6)
        highest = floor((self.high_in - self.anchor_in) / self.resolution_in + 1e-6)
        return self.anchor_in + min(max(whole, lowest), highest) * self.resolution_in


@dataclass(frozen=True)
class CheckingRod:
    """An adjustable rod: closed length, thread pitch and the turns it opens.

    Length = closed + turns x pitch, all inches. Twenty threads an inch, 0.050 a
    turn, is common practice; the maker's figure rules.

    >>> CheckingRod(8.150, 1 / 24, 20).length_in(9.625)
    8.551042
    """

    closed_in: float
    pitch_in: float
    most_turns: float

    def length_in(self, turns: float) -> float:
        """Length at a count of turns from closed. Raises InputError out of range."""
        check_turns(turns)
        if turns > self.most_turns + 1e-9:
            raise InputError(
                "turns",
                say(
                    "{turns} turns is more than this rod opens ({most_turns})",
                    turns=format_turns(turns),
                    most_turns=format_turns(self.most_turns),
                ),
                received=turns,
                expected=say("0 to {most_turns} turns", most_turns=format_turns(self.most_turns)),
                remedy=say("Count back to closed, or take a longer checking rod"),
                code="out_of_range",
            )
        return round(self.closed_in + turns * self.pitch_in, 6)

    def turns_for(self, length_in: float) -> float:
        """The setting, in eighths of a turn, nearest to a length; InputError out of range."""
        check_range(length_in, self.field)
        return round((length_in - self.closed_in) / self.pitch_in * 8) / 8

    @property
    def field(self) -> LengthField:
        """The rod's range as a field a length can be checked against."""
        longest = self.closed_in + self.most_turns * self.pitch_in
        return LengthField(
            "rod_length", Saying("Length on this checking rod"), self.closed_in, longest
        )

    @property
    def adjuster(self) -> Adjuster:
        field = self.field
        return Adjuster(
            self.closed_in,
            self.pitch_in,
            self.pitch_in / 8,
            field.low_in,
            field.high_in,
        )


@dataclass(frozen=True)
class Caliper:
    """A caliper or length gauge over an adjustable rod; range in inches.

    The rod's thread is not known, so trials are planned in 0.005 steps and a
    "turn" is the common 0.050.
    """

    low_in: float
    high_in: float

    @property
    def field(self) -> LengthField:
        return LengthField(
            "rod_length",
            Saying("Length on this caliper"),
            max(self.low_in, 3.0),
            min(self.high_in, 16.0),
        )

    @property
    def adjuster(self) -> Adjuster:
        return Adjuster(0.0, 0.050, 0.005, self.field.low_in, self.field.high_in, False)


def rectangular_u_in(half_width_in: float) -> float:
    """Standard uncertainty of a stated accuracy of plus or minus a: a / sqrt(3).

    Source: JCGM 100:2008 (GUM), 4.3.7.
    """
    return half_width_in / sqrt(3)


@dataclass(frozen=True)
class Indicator:
    """A dial or digital indicator: it reads small movements, never a rod's length."""

    @property
    def field(self) -> LengthField:
        """What it can read as a movement of the rod."""
        return FIELDS["push"]


@dataclass(frozen=True)
class RodSetting:
    """What a text typed for a checking rod can mean: turns, a length (inches), or both."""

    turns: float | None
    length_in: float | None


def setting_of(rod: CheckingRod, text: str, unit: Unit = "in") -> RodSetting:
    """Turns or length, as a text typed for a checking rod can mean.

    With "turns" or as whole turns and fractions it is turns; with a unit of length a length. A
    decimal figure is what the rod can be set to: one inside its lengths a length, one inside its
    turns turns, one inside both is both. Raises InputError for neither.

    >>> rod = CheckingRod(6.800, 0.050, 20)
    >>> [setting_of(rod, t) for t in ("7.3", "7 1/4", "7.25 in", "0.25")]
    [RodSetting(turns=None, length_in=7.3), RodSetting(turns=7.25, length_in=None), \
RodSetting(turns=None, length_in=7.25), RodSetting(turns=0.25, length_in=None)]
    """
    raw = typed_plainly(text.strip().lower())
    bare = raw.removesuffix("turns").removesuffix("turn").strip()
    if bare != raw or not ("." in raw or "," in raw or raw.endswith(("mm", "in", '"', "thou"))):
        return RodSetting(parse_turns(bare), None)
    longest = rod.closed_in + rod.most_turns * rod.pitch_in
    length = _or_none(lambda: float(parse_length(raw, FIELDS["rod_length"], unit).inches))
    if length is not None and not rod.closed_in - 1e-9 <= length <= longest + 1e-9:
        length = None
    turns = None
    if not raw.endswith(("mm", "in", '"', "thou")):
        turns = _or_none(lambda: parse_turns(raw))
        turns = None if turns is None or turns > rod.most_turns else turns
    if turns is None and length is None:
        return RodSetting(parse_turns(raw), None)
    return RodSetting(turns, length)


def _or_none(read: Callable[[], float]) -> float | None:
    try:
        return read()
    except InputError:
        return None


@dataclass(frozen=True)
class CountBack:
    """The turns counted back to closed against the running count.

    ``missing_turns`` is counted minus running; not zero means that the running
    count, and every trial since it went wrong, is off by ``error_in``.
    """

    running_turns: float
    counted_turns: float
    error_in: float

    @property
    def missing_turns(self) -> float:
        return self.counted_turns - self.running_turns

    @property
    def agrees(self) -> bool:
        return abs(self.missing_turns) < 1 / 16

    @property
    def sentence(self) -> str:
        if self.agrees:
            return say(
                "Counted back {counted_turns}: the running count is right.",
                counted_turns=format_turns(self.counted_turns),
            )
        return say(
            "Counted back {counted_turns} turns, the running count says {running_turns}: "
            "{off} {way} than written down. Strike out the trials set after the slip "
            "and set the rod again from closed.",
            counted_turns=format_turns(self.counted_turns),
            running_turns=format_turns(self.running_turns),
            off=format_length(abs(self.error_in)),
            way=say("longer") if self.error_in > 0 else say("shorter"),
        )


def count_back(rod: CheckingRod, running_turns: float, counted_turns: float) -> CountBack:
    """Check a running count by counting the turns back to closed (common practice)."""
    check_turns(counted_turns)
    return CountBack(running_turns, counted_turns, (counted_turns - running_turns) * rod.pitch_in)
