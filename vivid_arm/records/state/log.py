"""The log of one valve as it counts today, whatever its ratio near closed turns out to be."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import cast
from uuid import UUID

from propcache.api import cached_property

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.instruments import CheckingRod, CountBack, count_back
from vivid_arm.core.zero_lash.bracket import Feel, Trial
from vivid_arm.core.zero_lash.methods import METHODS, Measure
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.state.measuring import in_measuring, measure_of
from vivid_arm.records.state.setup import Ratio, Tool, rod_of
from vivid_arm.records.state.struck import struck_by
from vivid_arm.records.tables import Build, Instrument, Valve

MEASURING = ("trial", *METHODS)
"""The kinds of lines that measure."""


@dataclass(frozen=True)
class LogEntry:
    """A line of the log as it counts today.

    ``length_in`` is in the build's measuring convention, worked out from the
    turns again; ``recomputed`` when it differs from what was derived at entry.
    ``measure`` is what a measurement by another method gives today.
    """

    row: KeptLine
    length_in: float | None
    recomputed: bool
    struck_by: KeptLine | None
    count: CountBack | None
    measure: Measure | None = None


class ValveLog:
    """A valve's lines, the oldest first, and what they say without any ratio."""

    def __init__(self, build: Build, valve: Valve, rows: Sequence[KeptLine]) -> None:
        self.build = build
        self.kind = cast(ValveKind, valve.kind)
        self.rows = rows
        self._tools: dict[UUID, tuple[Tool, float]] = {}
        self._measured: tuple[Ratio, list[LogEntry]] | None = None

    def added(self, valve: Valve, rows: Sequence[KeptLine]) -> "ValveLog":
        """The same with some lines more, each once; itself where there are none."""
        known = {row.id for row in self.rows} if rows else ()
        more = [row for row in rows if row.id not in known]
        if not more:
            return self
        return ValveLog(self.build, valve, sorted([*self.rows, *more], key=lambda r: r.id))

    def measured(self, ratio: Ratio) -> list[LogEntry]:
        """Every line, measurements by other methods worked out with a ratio. Raises InputError."""
        if self._measured is None or self._measured[0] != ratio:
            self._measured = ratio, [self._with_measure(e, ratio) for e in self.lines]
        return self._measured[1]

    def _with_measure(self, entry: LogEntry, ratio: Ratio) -> LogEntry:
        if entry.row.kind not in METHODS:
            return entry
        found = measure_of(self.build, self.kind, entry.row, ratio)
        return replace(entry, measure=found, length_in=found.zero_lash_in)

    @cached_property
    def lines(self) -> list[LogEntry]:
        """Every line; of measurements by other methods not yet what they give."""
        struck = struck_by(self.rows)
        running: float | None = None
        entries = []
        for row in self.rows:
            counted = _as_corrected(row, struck)
            if row.kind == "trial" and counted is not None and counted.turns is not None:
                running = float(counted.turns)
            entries.append(self._entry(row, struck.get(row.id), running))
        return entries

    def _entry(self, row: KeptLine, struck_by: KeptLine | None, running: float | None) -> LogEntry:
        if row.length_in is None or row.kind in METHODS:
            return LogEntry(row, None, False, struck_by, _count(row, running))
        derived = length = float(row.length_in)
        if row.instrument is None:
            return LogEntry(row, length, False, struck_by, None)
        rod, added = self.read_by(row.instrument)
        if row.turns is not None and isinstance(rod, CheckingRod):
            length = round(rod.closed_in + float(row.turns) * rod.pitch_in, 6)
        recomputed = abs(length - derived) > 1e-6
        return LogEntry(row, length + added, recomputed, struck_by, None)

    def read_by(self, tool: Instrument) -> tuple[Tool, float]:
        """An instrument, and what its convention adds to the build's measuring one, inches."""
        known = self._tools.get(tool.id)
        if known is None:
            known = rod_of(tool), in_measuring(self.build, 0.0, tool.convention)
            self._tools[tool.id] = known
        return known

    @cached_property
    def trials(self) -> list[Trial]:
        """The trials that count, by number."""
        return [
            Trial(
                entry.row.number or 0,
                entry.length_in,
                cast(Feel, entry.row.feel),
                None if entry.row.gap_in is None else float(entry.row.gap_in),
            )
            for entry in self.lines
            if entry.row.kind == "trial" and entry.struck_by is None
            if entry.length_in is not None
        ]

    @cached_property
    def told(self) -> Sequence[Trial]:
        """The trials where there are some that tell of the ratio or of the hand."""
        return self.trials if sum(row.kind == "trial" for row in self.rows) > 1 else ()

    @cached_property
    def tried(self) -> Sequence[KeptLine]:
        """The lines that tell of marks on the tip; none where there is no mark."""
        return self.rows if any(row.kind == "mark" for row in self.rows) else ()

    @cached_property
    def measuring(self) -> list[KeptLine]:
        """The lines that measure and count."""
        return [e.row for e in self.lines if e.row.kind in MEASURING and e.struck_by is None]

    @property
    def last_reading(self) -> KeptLine:
        """The latest line that measures and counts. Raises IndexError without any."""
        return self.measuring[-1]

    @cached_property
    def tools(self) -> set[UUID | None]:
        """The instruments whose counted turns gave its lengths; None for one typed or measured."""
        return {
            r.instrument_id if r.turns is not None and r.kind == "trial" else None
            for r in self.measuring
        }

    @property
    def counted_back(self) -> bool:
        """Whether the last count-back agrees with the running count."""
        counts = self._counts
        return bool(counts) and bool(counts[-1].count and counts[-1].count.agrees)

    @property
    def counted_since(self) -> bool:
        """Whether the running count was found right after the last trial that counts.

        A line that replaces one of before stands for what was counted then.
        """
        if not self.counted_back:
            return False
        at = self._counts[-1].row.id
        trials = [row for row in self.measuring if row.kind == "trial"]
        return all((row.replaces_id or row.id) < at for row in trials)

    @cached_property
    def _counts(self) -> list[LogEntry]:
        return [e for e in self.lines if e.struck_by is None and e.count is not None]

    @cached_property
    def failed_line(self) -> LogEntry | None:
        """The last count-back where it disagrees and trials from before it still count."""
        if not self._counts or self.counted_back:
            return None
        return self._counts[-1] if self._counted_before(self._counts[-1]) else None

    def _counted_before(self, last: LogEntry) -> list[LogEntry]:
        return [
            e
            for e in self.lines
            if e.row.kind == "trial" and e.struck_by is None and e.row.id < last.row.id
        ]

    @property
    def recounted(self) -> list[KeptLine]:
        """The counted trials before the failed count-back; none without one."""
        if self.failed_line is None:
            return []
        return [e.row for e in self._counted_before(self.failed_line) if e.row.turns is not None]


def _as_corrected(row: KeptLine, struck: Mapping[int, KeptLine]) -> KeptLine | None:
    """A line or the one that took its place; None where it was struck out."""
    while row.id in struck:
        row = struck[row.id]
        if row.kind == "void":
            return None
    return row


def _count(row: KeptLine, running: float | None) -> CountBack | None:
    if row.kind != "count_back" or row.turns is None or row.instrument is None:
        return None
    rod = rod_of(row.instrument)
    if running is None or not isinstance(rod, CheckingRod):
        return None
    return count_back(rod, running, float(row.turns))
