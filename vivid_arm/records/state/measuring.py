"""A measuring line of the log as the core's measurement, worked out again each time."""

from decimal import Decimal
from typing import cast

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention, convert
from vivid_arm.core.zero_lash.methods import Measure, Method, Source
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, Figures
from vivid_arm.records.rows.line import AnyLine
from vivid_arm.records.state.setup import (
    Ratio,
    catalogue_ratio,
    ends_of,
    measuring_convention,
    source_of,
)
from vivid_arm.records.tables import Build


def in_measuring(build: Build, length_in: float, given: str) -> float:
    """A length carried into the build's measuring convention, inches."""
    wanted = measuring_convention(build)
    if given == wanted:
        return length_in
    return convert(length_in, cast(Convention, given), wanted, ends_of(build))


def known_rod_in(build: Build, row: AnyLine) -> float | None:
    """The known rod of a measurement in the measuring convention, inches."""
    if row.rod_in is None or row.rod_convention is None:
        return None
    return in_measuring(build, float(row.rod_in), row.rod_convention)


def measure_of(build: Build, kind: ValveKind, row: AnyLine, known: Ratio | None = None) -> Measure:
    """What a measuring line gives today, with today's ratio, travel and ends.

    The catalogue ratio stands in where none is given. Raises InputError.
    """
    return MEASURING_WAYS[cast(Method, row.kind)].worked_out(figures_of(build, kind, row, known))


def figures_of(build: Build, kind: ValveKind, row: AnyLine, known: Ratio | None = None) -> Figures:
    """A measuring line as the core reads it, lengths in the build's measuring convention."""
    ratio = known or catalogue_ratio(build, kind)
    own = source_of(row.instrument)
    rod_in = known_rod_in(build, row)
    read_in = row.instrument.convention if row.instrument else build.order_convention
    return Figures(
        ratio.value,
        tuple(row.repeats or ()) if row.kind == "turns"
        else tuple(in_measuring(build, x, read_in) for x in row.repeats or ()),
        _float(row.turns),
        _float(row.push_in),
        _float(row.gap_in),
        float(row.pitch_in or 0),
        float(build.travel_in),
        rod_in,
        own,
        own if rod_in is not None else Source(),
        row.number or 0,
        ratio.feeling,
        plain_turns(build),
    )  # fmt: skip


def plain_turns(build: Build) -> bool:
    """Whether preload is counted by the plain rule, as the window held in turns is."""
    return build.preload_turns is not None and build.preload_turns.rule == "plain"


def _float(value: Decimal | None) -> float | None:
    return None if value is None else float(value)
