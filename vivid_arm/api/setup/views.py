"""A build and its instruments as the interface gives them."""

from vivid_arm.api.board.views import next_step_out, valve_summary
from vivid_arm.api.decide.groups import group_out
from vivid_arm.api.setup.schemas import BuildSummary, InstrumentOut
from vivid_arm.core.engine.layout import KINDS, Engine, engine_words
from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.rods.preload import TURNS_RULES, TurnsRule
from vivid_arm.records.shapes import EngineFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rocker import near_closed
from vivid_arm.records.tables import Build, Instrument

_WORKED_OUT = ("valves", "instrument", "engine", "lobe_tables")
_AS_KEPT = [n for n in BuildSummary.model_fields if hasattr(Build, n) and n not in _WORKED_OUT]


def instrument_out(row: Instrument) -> InstrumentOut:
    return InstrumentOut(**{name: getattr(row, name) for name in InstrumentOut.model_fields})


def build_summary(state: BuildState) -> BuildSummary:
    build = state.build
    return BuildSummary(
        **{name: getattr(build, name) for name in _AS_KEPT},
        engine_words=engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        engine=engine_figures(state.engine),
        lobe_tables=[k for k in KINDS if k in (build.lobe_tables or {})],
        instrument=instrument_out(build.instrument) if build.instrument else None,
        measuring_convention=state.measuring,
        turns_in=_turns_in(build),
        reach_in={c: list(state.ends.reaches_in(c)) for c in CONVENTIONS},
        valves=[valve_summary(v, state) for v in state.valves],
        groups=[group_out(state, g) for g in state.groups],
        next_step=next_step_out(state),
    )


def _turns_in(build: Build) -> dict[TurnsRule, list[float]]:
    """What the turns of a window stand for by each rule, inches; empty without turns."""
    if build.preload_turns is None:
        return {}
    window, pitch = build.preload_turns.window, float(build.fastener_pitch_in)
    return {rule: list(window.by(rule, pitch, near_closed(build))) for rule in TURNS_RULES}


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
