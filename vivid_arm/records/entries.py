"""What a reading is from the door to the log: as typed, with the key that makes it one reading.

The interface, the CSV file and the demo make these; the writes check them and keep them.
"""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.rocker.seen import AngleTool, End, EyePlace, EyeWidth
from vivid_arm.core.sign_off.checks import CheckName
from vivid_arm.core.words import Unit
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.core.zero_lash.methods import MeasuringMethod
from vivid_arm.records.fields import Figure, Line, Strict, Text, Version
from vivid_arm.records.shapes import MarkPhoto
from vivid_arm.records.signed_in import By
from vivid_arm.records.state.sign_off import Way

Typed = Annotated[Line, Field(max_length=60)]
Reason = Annotated[Line, Field(max_length=120)]
LineId = Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)]


class Keyed(Strict):
    """One line of the log: its key and who took it."""

    key: UUID
    by: By = ""


class Replacing(Keyed):
    """A line that may take the place of an earlier one, with the reason."""

    replaces: LineId | None = None
    reason: Reason = ""


class Shown(Strict):
    """The instrument as the screen showed it: which one, and at which version.

    Where the shop's has moved on since, the line is refused with both readings to choose
    from; ``sure`` says that ``instrument_id`` is the one, whatever is chosen now.
    """

    instrument_id: UUID | None = None
    instrument_version: Version | None = None
    sure: bool = False


class AtStop(Strict):
    """Where the plan of stops has the crank while this is read, degrees; None without a plan."""

    crank_deg: Annotated[float, Field(ge=0, lt=720)] | None = None


class TrialIn(Replacing, Shown, AtStop):
    """A trial: turns (checking rod) or length (caliper) as typed, the feel, a gap as typed."""

    setting: Typed
    feel: Feel
    gap: Typed = ""
    unit: Unit = "in"


class MeasureIn(Replacing, Shown, AtStop):
    """One measurement by a method beside the bracket, as typed.

    ``reading``: lengths parted by blanks (extend), turns, the indicator's travel,
    or the gap (feelers may be added up: 0.040 + 0.025). ``rod``: the known rod's
    length in ``rod_convention``. ``instrument_id``: the caliper or indicator that
    read it or, for turns and gaps, that read the rod.
    """

    method: MeasuringMethod
    reading: Annotated[Text, Field(max_length=200)]
    rod: Typed = ""
    rod_convention: Convention | None = None
    pitch_in: Figure | None = None
    unit: Unit = "in"


class CountBackIn(Keyed, Shown):
    """Turns counted back to closed, as typed."""

    turns: Typed


class RecountIn(Keyed):
    """A count-back was right: the counted trials from number ``since`` on are worked out again."""

    count_id: LineId
    since: Annotated[int, Field(strict=True, ge=1, le=100_000)]


class VoidIn(Keyed):
    """Strike a reading out, with the reason."""

    reading_id: LineId
    reason: Annotated[Line, Field(min_length=1, max_length=120)]


class RestoreIn(Keyed):
    """Let a reading count again that was struck out."""

    reading_id: LineId


class MoveReadingIn(Keyed):
    """A reading belongs to another valve of the build: ``to``."""

    reading_id: LineId
    to: UUID


class NoteIn(Keyed):
    """A note on a build, or on a valve or a reading of it; without words it takes one away."""

    text: Annotated[Text, Field(max_length=2000)]
    valve_id: UUID | None = None
    reading_id: LineId | None = None
    photo_id: UUID | None = None
    replaces: LineId | None = None


class MarkIn(Replacing):
    """One try, as typed: what was set and what was seen; what is left out was not seen.

    Edges count from the tip's middle (outboard positive) or from its inboard edge;
    a photo's circle and lines give them too. ``angle`` in degrees off square at
    half lift, tip end high positive; ``heights``: of the arm at fulcrum and axle over
    a distance, as ``0.250 0.262 over 1.5``. ``place`` and ``wide`` are what the eye
    tells, ``off`` the side on which the mark runs off the tip, ``at_rest`` a mark made
    without a turn, ``across`` its middle sideways, ``sink`` how far the plunger sinks.
    ``pairs``: lobe lift, valve lift; ... ``rod`` is a length, turns of the checking rod
    (``9 3/8 turns``) or a step from the last one (``+0.100``); ``screw`` the turns of a
    rocker's own adjuster. Without ``rod``, ``shim`` or ``screw`` the engine stands as at
    the try before.
    """

    inboard: Typed = ""
    outboard: Typed = ""
    width: Typed = ""
    measured_from: Literal["middle", "edge"] = "middle"
    off: End | None = None
    at_rest: bool = False
    place: EyePlace | None = None
    wide: EyeWidth | None = None
    across: Typed = ""
    sink: Typed = ""
    closed_end: End | None = None
    angle: Typed = ""
    heights: Annotated[Text, Field(max_length=80)] = ""
    angle_by: AngleTool = "inclinometer"
    lift: Typed = ""
    real_lift: Typed = ""
    pairs: Annotated[Text, Field(max_length=160)] = ""
    rod: Typed = ""
    rod_convention: Convention | None = None
    shim: Typed = ""
    screw: Typed = ""
    photo: MarkPhoto | None = None
    unit: Unit = "in"


class FindingIn(Keyed):
    """What a check found, as typed (``yes`` for yes or no). One key is one finding."""

    name: CheckName
    valve: Annotated[Text, Field(pattern=r"^\d{1,2}[IE]$")]
    way: Way = ""
    text: Annotated[Text, Field(max_length=400)] = ""
    yes: bool | None = None
    unit: Unit = "in"
