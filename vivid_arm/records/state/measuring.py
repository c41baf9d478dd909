"""A measuring line of the log as the core's measurement, worked out again each time."""

from typing import cast

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention, convert
from vivid_arm.core.zero_lash.methods import (
    Measure,
    Method,
    Source,
    extended,
    fastener_turns,
    gap_bottomed,
    gap_short,
    indicator_push,
)
from vivid_arm.records.state.setup import (
    Ratio,
    catalogue_ratio,
    ends_of,
    measuring_convention,
    source_of,
)
from vivid_arm.records.tables import Build, Reading


def in_measuring(build: Build, length_in: float, given: str) -> float:
    """A length carried into the build's measuring convention, inches."""
    wanted = measuring_convention(build)
    if given == wanted:
        return length_in
    return convert(length_in, cast(Convention, given), wanted, ends_of(build))


def known_rod_in(build: Build, row: Reading) -> float | None:
    """The known rod of a measurement in the measuring convention, inches."""
    if row.rod_in is None or row.rod_convention is None:
        return None
    return in_measuring(build, float(row.rod_in), row.rod_convention)


def measure_of(build: Build, kind: ValveKind, row: Reading, known: Ratio | None = None) -> Measure:
    """What a measuring line gives today, with today's ratio, travel and ends.

    The catalogue ratio stands in where none is given. Raises InputError.
    """
    found = known or catalogue_ratio(build, kind)
    ratio, feeling, number = found.value, found.feeling, row.number or 0
    rod_in = known_rod_in(build, row)
    own = source_of(row.instrument)
    rod = own if rod_in is not None else Source()
    method = cast(Method, row.kind)
    if method == "extend":
        assert row.instrument is not None
        lengths = [in_measuring(build, x, row.instrument.convention) for x in row.repeats or ()]
        return extended(lengths, own, number)
    if method == "turns":
        return fastener_turns(
            float(row.turns or 0), float(row.pitch_in or 0), ratio, rod_in, rod, number, feeling
        )
    if method == "indicator":
        return indicator_push(float(row.push_in or 0), own, rod_in, None, number)
    gap = float(row.gap_in or 0)
    if method == "gap_short":
        assert rod_in is not None
        return gap_short(gap, rod_in, ratio, rod, number, feeling)
    return gap_bottomed(gap, float(build.travel_in), ratio, rod_in, rod, number, feeling)
