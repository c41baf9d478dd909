"""A valve and its station as the interface gives them."""

from collections.abc import Sequence
from typing import cast

from vivid_arm.api.board.views import valve_summary
from vivid_arm.api.decide.groups import candidates_out
from vivid_arm.api.heads.views import suspicion_out
from vivid_arm.api.said.schemas import ExplanationOut
from vivid_arm.api.said.views import _explained, verdict_out
from vivid_arm.api.setup.views import build_summary
from vivid_arm.api.zero_lash.schemas import (
    AheadOut,
    CombinedOut,
    KeptStation,
    LogLine,
    NextTrialOut,
    RecountOut,
    StationOut,
    WeightOut,
)
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.core.rods.preload import Choice, choose_length, exact_length_in
from vivid_arm.core.said.cautions import ADJUSTABLE_SHAFT, LIFTER_FOOT, MEASURING, SHAFT
from vivid_arm.core.said.explanations import (
    Explanation,
    explain_combined,
    explain_exact,
    explain_fit,
    explain_lash_rod,
    explain_measure,
    explain_order_length,
    explain_prediction,
    explain_setting,
    explain_uncertainty,
    explain_zero_lash,
)
from vivid_arm.core.said.verdicts import recount_words
from vivid_arm.core.words import remembered_as_said, say, say_all
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.core.zero_lash.combine import Combined
from vivid_arm.core.zero_lash.methods import METHODS, Method
from vivid_arm.core.zero_lash.predict import MOUNTS
from vivid_arm.records.state.ahead import NOT_KEPT, RodAsSet, once_felt
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.log import LogEntry
from vivid_arm.records.state.measuring import figures_of
from vivid_arm.records.state.plan import plan_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build

PLAIN: tuple[Feel, ...] = ("loose", "zero", "tight")
"""The feels that are looked ahead to: what a hand says most."""


def station_out(state: BuildState, valve: ValveState) -> StationOut:
    choice = _own_choice(valve)
    bracket = valve.bracket
    step = valve.next_trial
    turns = valve.next_turns
    suspicion = state.suspicions.get(valve.name)
    return StationOut(
        build_id=valve.build.id,
        valve=valve_summary(valve, state),
        ratio=valve.ratio,
        ratio_words=valve.ratio_known.words,
        log=[_log_line(valve, entry) for entry in valve.log if entry.row.kind != "mark"],
        longest_loose_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        shortest_tight_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
        within_in=bracket.within_in,
        within_probability=bracket.within_probability,
        contradictions=[[c.first, c.second] for c in bracket.contradictions],
        next_trial=NextTrialOut(
            step=step.step,
            length_in=step.length_in,
            turns=turns,
            turns_words=None if turns is None else format_turns(turns),
            reason=step.reason,
        )
        if step
        else None,
        verdict=verdict_out(valve.verdict),
        recounts=_recounts_out(valve),
        combined=_combined_out(valve.combined) if valve.measures and valve.combined else None,
        suspicion=suspicion_out(state, suspicion) if suspicion else None,
        exact_in=valve.exact_in,
        geometry=_by_geometry(state, valve),
        candidates=candidates_out(choice, valve.offset_in) if choice else [],
        explanations=_station_explanations(valve, choice),
        cautions=_cautions(valve.build),
    )


def _recounts_out(valve: ValveState) -> list[RecountOut]:
    line = valve.told.failed_line
    if line is None or line.count is None:
        return []
    return [
        RecountOut(count_id=line.row.id, since=since, words=recount_words(line.count, since))
        for since in valve.recounts
    ]


def _by_geometry(state: BuildState, valve: ValveState) -> str:
    """How the rod comes about where a stud's marks settle it; else what they leave open."""
    rod = state.geometry.get(valve.kind)
    if rod is None:
        return ""
    return say("Rod by the mark: {sum}", sum=rod.sum) if rod.settled else rod.open_point


def kept_station(state: BuildState, valve: ValveState) -> KeptStation:
    """The answer to a reading of a valve; its parts were checked when they were made."""
    return KeptStation.model_construct(
        **dict(station_out(state, valve)), build=build_summary(state)
    )


def ahead_out(
    state: BuildState, valve: ValveState, rod: RodAsSet, feels: Sequence[Feel] = PLAIN
) -> AheadOut:
    """What the station would say once the rod as set is felt, by feel."""
    found = {feel: _ahead(once_felt(state, valve, rod, feel), valve) for feel in feels}
    return AheadOut(instrument_id=rod.tool.id, instrument_version=rod.tool.version, once_felt=found)


def _ahead(state: BuildState, valve: ValveState) -> StationOut:
    """The station but for the line of the log that is not there yet."""
    out = station_out(*state.with_valve(valve.valve.id))
    out.log = [line for line in out.log if line.id != NOT_KEPT]
    return out


def _cautions(build: Build) -> list[str]:
    more = {"shaft": [SHAFT], "shaft_adjustable": [ADJUSTABLE_SHAFT, SHAFT]}
    told = [*MEASURING, LIFTER_FOOT[build.lifter_foot], *more.get(build.mount, [])]
    return say_all(told)


def _combined_out(combined: Combined) -> CombinedOut:
    return CombinedOut(
        estimate_in=combined.estimate_in,
        u_in=combined.u_in,
        probability=combined.probability,
        odd=combined.odd.name if combined.odd else None,
        parts=[
            WeightOut(name=m.name, zero_lash_in=m.zero_lash_in or 0.0, u_in=m.u_in, weight=w)
            for m, w in zip(combined.used, combined.weights, strict=True)
        ],
    )


def _own_choice(valve: ValveState) -> Choice | None:
    """What this valve alone would take, as soon as there is an estimate."""
    if valve.estimate_in is None or valve.build.lifter_kind == "solid":
        return None
    build = valve.build
    return choose_length(
        [valve.estimate_in + valve.carried[0]],
        valve.lifter,
        float(build.stock_step_in),
        build.bias,  # type: ignore[arg-type]
        offset_in=valve.offset_in,
        lengths_in=plan_of(build).lengths_in,
    )


def _station_explanations(valve: ValveState, choice: Choice | None) -> dict[str, ExplanationOut]:
    estimate = valve.estimate_in
    found: dict[str, Explanation | None] = {
        "zero_lash": explain_zero_lash(
            valve.bracket, valve.ratio, valve.feeling, valve.ratio_known.words
        ),
        "uncertainty": explain_uncertainty(valve.bracket, valve.instrument_u_in),
    }
    if valve.measures:
        combined = explain_combined(valve.combined) if valve.combined else None
        found |= {"zero_lash": combined, "uncertainty": combined}
    if valve.prediction is not None:
        words = say(MOUNTS[valve.build.mount])  # type: ignore[index]
        found["predicted"] = explain_prediction(valve.prediction, words)
    if estimate is not None and valve.build.lifter_kind == "solid" and valve.lash_in is not None:
        found["exact"] = explain_lash_rod(estimate, valve.lash_in, valve.ratio)
    if estimate is not None and choice is not None:
        exact = exact_length_in(estimate, valve.lifter.target_in)
        found["exact"] = explain_exact(estimate, valve.lifter.target_in)
        shown = choice.best or choice.nearest
        found["fit"] = explain_fit(
            shown.length_in - valve.offset_in, estimate, shown.fits[0], valve.lifter.travel_in
        )
        if valve.measuring != valve.ordering:
            found["order"] = explain_order_length(
                exact, valve.measuring, valve.ordering, valve.ends
            )
    return _explained(found)


def _log_line(valve: ValveState, entry: LogEntry) -> LogLine:
    row, measure = entry.row, entry.measure
    turns = None if row.turns is None else float(row.turns)
    return LogLine(
        id=row.id,
        kind=row.kind,
        method=say(METHODS[cast(Method, row.kind)]) if measure else None,
        number=row.number,
        raw=row.raw,
        instrument=row.instrument.name if row.instrument else None,
        turns=turns,
        turns_words=None if turns is None else format_turns(turns),
        length_in=entry.length_in,
        recomputed=entry.recomputed,
        feel=row.feel,
        gap_in=None if row.gap_in is None else float(row.gap_in),
        raw_rod=row.raw_rod,
        preload_in=measure.preload_in if measure else None,
        plain_in=measure.plain_in if measure else None,
        u_in=measure.u_in if measure else None,
        struck=entry.struck_by is not None,
        struck_reason=entry.struck_by.reason if entry.struck_by else None,
        restorable=entry.struck_by is not None and entry.struck_by.kind == "void",
        reason=row.reason,
        by=row.taken_by,
        at=row.taken_at,
        sentence=entry.count.sentence if entry.count else None,
        count_agrees=entry.count.agrees if entry.count else None,
        explanation=_line_explanation(valve, entry, turns),
    )


def _line_explanation(
    valve: ValveState, entry: LogEntry, turns: float | None
) -> ExplanationOut | None:
    found = _measure_explanation(valve, entry)
    if found is not None:
        return ExplanationOut.model_validate(found, from_attributes=True)
    return _setting_explanation(valve, entry, turns)


def _measure_explanation(valve: ValveState, entry: LogEntry) -> Explanation | None:
    if entry.measure is None:
        return None
    read = figures_of(valve.build, valve.kind, entry.row, valve.ratio_known)
    return explain_measure(entry.measure, read, valve.ratio_known.words)


def _setting_explanation(
    valve: ValveState, entry: LogEntry, turns: float | None
) -> ExplanationOut | None:
    instrument = entry.row.instrument
    if entry.row.kind != "trial" or turns is None or instrument is None:
        return None
    rod, _ = valve.told.read_by(instrument)
    if not isinstance(rod, CheckingRod) or turns > rod.most_turns:
        return None
    return _of_setting(rod, turns)


@remembered_as_said(1024)
def _of_setting(rod: CheckingRod, turns: float) -> ExplanationOut:
    """Every line of a log has one, and is told again with every reading."""
    return ExplanationOut.model_validate(explain_setting(rod, turns), from_attributes=True)
