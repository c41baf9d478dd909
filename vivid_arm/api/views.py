"""From records and core to what the interface gives."""

from vivid_arm.core.cautions import MEASURING
from vivid_arm.core.engine import engine_words
from vivid_arm.core.explain import (
    Explanation,
    explain_exact,
    explain_fit,
    explain_order_length,
    explain_setting,
    explain_uncertainty,
    explain_zero_lash,
)
from vivid_arm.core.instruments import CheckingRod
from vivid_arm.core.lengths import format_turns
from vivid_arm.core.order import GroupOrder
from vivid_arm.core.preload import Candidate, Choice, choose_length
from vivid_arm.core.verdicts import Verdict
from vivid_arm.records.models import Instrument
from vivid_arm.records.state import BuildState, LogEntry, ValveState, rod_of

from .schemas import (
    BuildSummary,
    CandidateOut,
    ExplanationOut,
    GroupOut,
    InstrumentOut,
    LogLine,
    NextStepOut,
    NextTrialOut,
    StationOut,
    ValveSummary,
    VerdictOut,
)


def instrument_out(row: Instrument) -> InstrumentOut:
    field = rod_of(row).field
    columns = {
        name: getattr(row, name)
        for name in InstrumentOut.model_fields
        if not name.startswith("range_")
    }
    return InstrumentOut(**columns, range_low_in=field.low_in, range_high_in=field.high_in)


def verdict_out(verdict: Verdict) -> VerdictOut:
    return VerdictOut.model_validate(verdict, from_attributes=True)


def _explained(found: dict[str, Explanation | None]) -> dict[str, ExplanationOut]:
    return {
        name: ExplanationOut.model_validate(explanation, from_attributes=True)
        for name, explanation in found.items()
        if explanation is not None
    }


def valve_summary(valve: ValveState) -> ValveSummary:
    bracket = valve.bracket
    return ValveSummary(
        id=valve.valve.id,
        version=valve.valve.version,
        cylinder=valve.valve.cylinder,
        kind=valve.kind,
        name=valve.name,
        expected_in=valve.expected_in,
        trials=len(valve.trials),
        state=valve.verdict.state,
        low_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        high_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
        estimate_in=bracket.estimate_in,
        u_in=valve.u_in,
    )


def candidate_out(candidate: Candidate, choice: Choice | None, offset_in: float) -> CandidateOut:
    preloads = [f.preload_in for f in candidate.fits]
    return CandidateOut(
        length_in=candidate.length_in,
        axis_in=candidate.length_in - offset_in,
        preload_low_in=min(preloads),
        preload_high_in=max(preloads),
        off_bottom_in=min(f.off_bottom_in for f in candidate.fits),
        inside=candidate.inside,
        miss_in=candidate.miss_in,
        errs=candidate.errs,
        best=choice is not None and candidate == choice.best,
    )


def candidates_out(choice: Choice, offset_in: float) -> list[CandidateOut]:
    return [candidate_out(c, choice, offset_in) for c in choice.candidates]


def group_out(state: BuildState, group: GroupOrder) -> GroupOut:
    choice, taken = group.choice, group.taken
    return GroupOut(
        kind=group.kind,
        quantity=group.quantity,
        measured=[f"{v.cylinder}{'I' if v.kind == 'intake' else 'E'}" for v in group.measured],
        exact_in=choice.exact_in if choice else None,
        candidates=candidates_out(choice, state.offset_in) if choice else [],
        taken=candidate_out(taken, choice, state.offset_in) if taken else None,
        picked=group.picked,
        verdict=verdict_out(state.group_verdict(group)),
        explanations=_group_explanations(state, group),
    )


def _group_explanations(state: BuildState, group: GroupOrder) -> dict[str, ExplanationOut]:
    if group.choice is None:
        return {}
    zeros = [v.zero_lash_in for v in group.measured]
    middle = (min(zeros) + max(zeros)) / 2
    exact = middle + state.lifter.target_in
    found: dict[str, Explanation | None] = {"exact": explain_exact(middle, state.lifter.target_in)}
    if state.measuring != state.ordering:
        found["order"] = explain_order_length(exact, state.measuring, state.ordering, state.ends)
    if group.taken is not None:
        found["fit"] = explain_fit(
            group.taken.length_in - state.offset_in,
            zeros[0],
            group.taken.fits[0],
            state.lifter.travel_in,
        )
    return _explained(found)


def build_summary(state: BuildState) -> BuildSummary:
    build = state.build
    columns = {
        name: getattr(build, name)
        for name in BuildSummary.model_fields
        if hasattr(build, name) and name not in ("valves", "instrument")
    }
    return BuildSummary(
        **columns,
        engine=engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        instrument=instrument_out(build.instrument) if build.instrument else None,
        measuring_convention=state.measuring,
        valves=[valve_summary(v) for v in state.valves],
        groups=[group_out(state, g) for g in state.groups],
        next_step=_next_step(state),
    )


def _next_step(state: BuildState) -> NextStepOut:
    step = state.next_step
    of_kind = [v for v in state.valves if step.kind in (None, v.kind)]
    waiting = [v for v in of_kind if v.trials and not v.measured]
    valve = (waiting or of_kind)[0]
    return NextStepOut(
        station=step.station,
        valve_id=valve.valve.id if step.station == "zero-lash" else None,
        sentence=step.sentence,
    )


def station_out(valve: ValveState) -> StationOut:
    choice = _own_choice(valve)
    bracket = valve.bracket
    step = valve.next_trial
    turns = valve.next_turns
    return StationOut(
        build_id=valve.build.id,
        valve=valve_summary(valve),
        ratio=valve.ratio,
        log=[_log_line(entry) for entry in valve.log],
        longest_loose_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        shortest_tight_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
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
        exact_in=None
        if bracket.estimate_in is None
        else bracket.estimate_in + valve.lifter.target_in,
        candidates=candidates_out(choice, valve.offset_in) if choice else [],
        explanations=_station_explanations(valve, choice),
        cautions=list(MEASURING),
    )


def _own_choice(valve: ValveState) -> Choice | None:
    """What this valve alone would take, as soon as there is an estimate."""
    if valve.bracket.estimate_in is None:
        return None
    build = valve.build
    return choose_length(
        [valve.bracket.estimate_in],
        valve.lifter,
        float(build.stock_step_in),
        build.bias,  # type: ignore[arg-type]
        offset_in=valve.offset_in,
    )


def _station_explanations(valve: ValveState, choice: Choice | None) -> dict[str, ExplanationOut]:
    estimate = valve.bracket.estimate_in
    found: dict[str, Explanation | None] = {
        "zero_lash": explain_zero_lash(valve.bracket, valve.ratio),
        "uncertainty": explain_uncertainty(valve.bracket, valve.instrument_u_in),
    }
    if estimate is not None and choice is not None:
        exact = estimate + valve.lifter.target_in
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


def _log_line(entry: LogEntry) -> LogLine:
    row = entry.row
    turns = None if row.turns is None else float(row.turns)
    return LogLine(
        id=row.id,
        kind=row.kind,
        number=row.number,
        raw=row.raw,
        raw_gap=row.raw_gap,
        instrument=row.instrument.name if row.instrument else None,
        turns=turns,
        turns_words=None if turns is None else format_turns(turns),
        length_in=entry.length_in,
        recomputed=entry.recomputed,
        feel=row.feel,
        gap_in=None if row.gap_in is None else float(row.gap_in),
        replaces_id=row.replaces_id,
        struck=entry.struck_by is not None,
        struck_reason=entry.struck_by.reason if entry.struck_by else None,
        reason=row.reason,
        by=row.taken_by,
        at=row.taken_at,
        sentence=entry.count.sentence if entry.count else None,
        count_agrees=entry.count.agrees if entry.count else None,
        explanation=_setting_explanation(entry, turns),
    )


def _setting_explanation(entry: LogEntry, turns: float | None) -> ExplanationOut | None:
    instrument = entry.row.instrument
    if entry.row.kind != "trial" or turns is None or instrument is None:
        return None
    rod = rod_of(instrument)
    if not isinstance(rod, CheckingRod) or turns > rod.most_turns:
        return None
    return ExplanationOut.model_validate(explain_setting(rod, turns), from_attributes=True)
