"""From records and core to what the interface gives."""

from typing import Any, cast

from vivid_arm.api.map_views import suspicion_out
from vivid_arm.api.schemas import (
    BoardEntry,
    BuildSummary,
    CandidateOut,
    CombinedOut,
    EngineFigures,
    ExplanationOut,
    GroupOut,
    InstrumentOut,
    LogLine,
    NextStepOut,
    NextTrialOut,
    StationOut,
    ValveSummary,
    VerdictOut,
    WeightOut,
)
from vivid_arm.core.engine.layout import KINDS, Engine, engine_words
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.core.rods.groups import GroupOrder
from vivid_arm.core.rods.preload import Candidate, Choice, choose_length
from vivid_arm.core.said.cautions import ADJUSTABLE_SHAFT, MEASURING, SHAFT
from vivid_arm.core.said.explanations import (
    Explanation,
    explain_combined,
    explain_exact,
    explain_fit,
    explain_measure,
    explain_order_length,
    explain_prediction,
    explain_setting,
    explain_uncertainty,
    explain_zero_lash,
)
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.core.zero_lash.combine import Combined
from vivid_arm.core.zero_lash.methods import METHODS, Method
from vivid_arm.core.zero_lash.predict import MOUNTS
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.measuring import in_measuring, known_rod_in
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.state.valve import LogEntry, ValveState
from vivid_arm.records.tables import Build, Instrument


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


def valve_summary(valve: ValveState, state: BuildState) -> ValveSummary:
    bracket = valve.bracket
    return ValveSummary(
        id=valve.valve.id,
        version=valve.valve.version,
        cylinder=valve.valve.cylinder,
        kind=valve.kind,
        name=valve.name,
        expected_in=None if valve.valve.expected_in is None else float(valve.valve.expected_in),
        predicted_in=valve.prediction.zero_lash_in if valve.prediction else None,
        predicted_u_in=valve.prediction.u_in if valve.prediction else None,
        trials=len(valve.trials),
        readings=valve.readings_count,
        state=valve.verdict.state,
        doubted=valve.name in state.suspicions,
        low_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        high_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
        estimate_in=valve.estimate_in,
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
        if hasattr(build, name) and name not in ("valves", "instrument", "engine", "lobe_tables")
    }
    return BuildSummary(
        **columns,
        engine_words=engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        engine=engine_figures(state.engine),
        lobe_tables=[k for k in KINDS if k in (build.lobe_tables or {})],
        instrument=instrument_out(build.instrument) if build.instrument else None,
        measuring_convention=state.measuring,
        valves=[valve_summary(v, state) for v in state.valves],
        groups=[group_out(state, g) for g in state.groups],
        next_step=_next_step(state),
    )


def engine_figures(engine: Engine) -> EngineFigures:
    return EngineFigures(
        bank_angle_deg=float(engine.bank_angle_deg),
        numbering=engine.numbering,
        first_bank=engine.first_bank,
        rotation=engine.rotation,
        firing_order=list(engine.firing_order),
        intervals_deg=[float(i) for i in engine.intervals_deg],
        valve_orders=list(engine.valve_orders),
    )


def board_entry(state: BuildState) -> BoardEntry:
    """A build's row on the board."""
    return BoardEntry(
        **_of_row(state.build),
        valves={kind: _furthest(state, kind) for kind in KINDS},
        taken={
            g.kind: candidate_out(g.taken, g.choice, state.offset_in) if g.taken else None
            for g in state.groups
        },
        next_step=_next_step(state),
    )


def uncomputed_entry(build: Build, error: Exception) -> BoardEntry:
    """The row of a build that cannot be computed: nothing of it is hidden or guessed."""
    return BoardEntry(
        **_of_row(build),
        valves=dict.fromkeys(KINDS),
        taken=dict.fromkeys(KINDS),
        next_step=NextStepOut(
            station="setup",
            valve_id=None,
            sentence="This build cannot be computed. Its readings are kept. "
            "Look for a set-up figure or a reading that cannot be.",
        ),
        fault=f"{type(error).__name__}: {error}"[:300],
    )


def board_body(state: BuildState) -> dict[str, Any]:
    """A row of the board as it is kept."""
    return board_entry(state).model_dump(mode="json")


def uncomputed_body(build: Build, error: Exception) -> dict[str, Any]:
    """The same for a build that cannot be computed."""
    return uncomputed_entry(build, error).model_dump(mode="json")


def _of_row(build: Build) -> dict[str, Any]:
    """What the board shows that needs no computing."""
    return {
        "id": build.id,
        "name": build.name,
        "engine_words": engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        "updated_at": build.updated_at,
        "preload_low_in": float(build.preload_low_in),
        "preload_high_in": float(build.preload_high_in),
        "travel_in": float(build.travel_in),
    }


def _furthest(state: BuildState, kind: str) -> ValveSummary | None:
    own = [v for v in state.valves if v.kind == kind and v.readings_count]
    valve = next((v for v in own if v.measured), own[0] if own else None)
    return valve_summary(valve, state) if valve else None


def _next_step(state: BuildState) -> NextStepOut:
    step = state.next_step
    of_kind = [v for v in state.valves if step.kind in (None, v.kind)]
    named = [v for v in of_kind if v.name == step.valve]
    waiting = [v for v in of_kind if v.readings_count and not v.measured]
    valve = (named or waiting or of_kind)[0]
    return NextStepOut(
        station=step.station,
        valve_id=valve.valve.id if step.station in ("zero-lash", "arm") else None,
        sentence=step.sentence,
    )


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
        combined=_combined_out(valve.combined) if valve.measures and valve.combined else None,
        suspicion=suspicion_out(state, suspicion) if suspicion else None,
        exact_in=None if valve.estimate_in is None else valve.estimate_in + valve.lifter.target_in,
        candidates=candidates_out(choice, valve.offset_in) if choice else [],
        explanations=_station_explanations(valve, choice),
        cautions=_cautions(valve.build.mount),
    )


def _cautions(mount: str) -> list[str]:
    more = {"shaft": [SHAFT], "shaft_adjustable": [ADJUSTABLE_SHAFT, SHAFT]}
    return [*MEASURING, *more.get(mount, [])]


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
        [valve.estimate_in],
        valve.lifter,
        float(build.stock_step_in),
        build.bias,  # type: ignore[arg-type]
        offset_in=valve.offset_in,
    )


def _station_explanations(valve: ValveState, choice: Choice | None) -> dict[str, ExplanationOut]:
    estimate = valve.estimate_in
    found: dict[str, Explanation | None] = {
        "zero_lash": explain_zero_lash(
            valve.bracket, valve.ratio, valve.ratio_known.feeling, valve.ratio_known.words
        ),
        "uncertainty": explain_uncertainty(valve.bracket, valve.instrument_u_in),
    }
    if valve.measures:
        combined = explain_combined(valve.combined) if valve.combined else None
        found |= {"zero_lash": combined, "uncertainty": combined}
    if valve.prediction is not None:
        words = MOUNTS[valve.build.mount]  # type: ignore[index]
        found["predicted"] = explain_prediction(valve.prediction, words)
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


def _log_line(valve: ValveState, entry: LogEntry) -> LogLine:
    row, measure = entry.row, entry.measure
    turns = None if row.turns is None else float(row.turns)
    return LogLine(
        id=row.id,
        kind=row.kind,
        method=METHODS[cast(Method, row.kind)] if measure else None,
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
        raw_rod=row.raw_rod,
        preload_in=measure.preload_in if measure else None,
        plain_in=measure.plain_in if measure else None,
        u_in=measure.u_in if measure else None,
        replaces_id=row.replaces_id,
        struck=entry.struck_by is not None,
        struck_reason=entry.struck_by.reason if entry.struck_by else None,
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
    found = _measure_explanation(valve, entry) or _setting_explanation(entry, turns)
    return ExplanationOut.model_validate(found, from_attributes=True) if found else None


def _measure_explanation(valve: ValveState, entry: LogEntry) -> Explanation | None:
    row, build = entry.row, valve.build
    if entry.measure is None:
        return None
    own = row.instrument.convention if row.instrument else build.order_convention
    return explain_measure(
        entry.measure,
        valve.ratio,
        rod_in=known_rod_in(build, row),
        turns=float(row.turns or 0),
        pitch_in=float(row.pitch_in or 0),
        gap_in=float(row.gap_in or 0),
        travel_in=float(build.travel_in),
        readings_in=[in_measuring(build, x, own) for x in row.repeats or ()],
        ratio_words=valve.ratio_known.words,
    )


def _setting_explanation(entry: LogEntry, turns: float | None) -> Explanation | None:
    instrument = entry.row.instrument
    if entry.row.kind != "trial" or turns is None or instrument is None:
        return None
    rod = rod_of(instrument)
    if not isinstance(rod, CheckingRod) or turns > rod.most_turns:
        return None
    return explain_setting(rod, turns)
