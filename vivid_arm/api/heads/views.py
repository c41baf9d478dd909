"""The head map and what is doubted as the interface gives them."""

from collections import Counter
from collections.abc import Iterable

from vivid_arm.api.heads.schemas import (
    HeadLot,
    HeadOut,
    HeadsOut,
    HeadValve,
    LikelyOut,
    RemarkOut,
    SuspicionOut,
)
from vivid_arm.core.engine.base_circle import chosen_valves
from vivid_arm.core.heads.mistakes import Suspicion
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.valve import ValveState


def heads_out(state: BuildState) -> HeadsOut:
    """The heads as seen from above with the front to the left: the left bank lies below."""
    by_name = {v.name: v for v in state.valves}
    heads = [
        HeadOut(
            bank=head.bank,
            valves=[_head_valve(state, by_name[f"{c}{k[0].upper()}"]) for c, k in head.valves],
        )
        for head in reversed(state.engine.heads)
    ]
    return HeadsOut(
        heads=heads,
        measured=len(state.known),
        rods=[
            HeadLot(length_in=length - state.offset_in, count=count)
            for length, count in sorted(Counter(state.rods_in.values()).items())
        ],
        spread_in=state.spread.by_kind,
        remarks=[RemarkOut.model_validate(f, from_attributes=True) for f in state.spread.remarks],
        suspicions=[suspicion_out(state, s) for s in state.suspicions.values()],
        selections={
            "all": _names(chosen_valves(state.engine, "all")),
            "corners": _names(chosen_valves(state.engine, "corners")),
            "cylinder": _names(chosen_valves(state.engine, "cylinder", _first(state))),
        },
    )


def _head_valve(state: BuildState, valve: ValveState) -> HeadValve:
    bracket = valve.bracket
    return HeadValve(
        id=valve.valve.id,
        name=valve.name,
        cylinder=valve.valve.cylinder,
        kind=valve.kind,
        state=state.standing(valve),
        readings=valve.readings_count,
        estimate_in=valve.estimate_in,
        u_in=valve.u_in,
        low_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        high_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
        preload_in=state.preload_in(valve),
        rod_in=state.rods_in[valve.name] - state.offset_in if valve.name in state.rods_in else None,
    )


def _names(valves: Iterable[tuple[int, str]]) -> list[str]:
    return [f"{c}{k[0].upper()}" for c, k in valves]


def _first(state: BuildState) -> int:
    return state.engine.heads[0].cylinders[0]


def suspicion_out(state: BuildState, suspicion: Suspicion) -> SuspicionOut:
    valve = next(v for v in state.valves if v.name == suspicion.name)
    said = state.build.final is not None and state.build.final.lifter is not None
    return SuspicionOut(
        valve_id=valve.valve.id,
        asks_lifter=suspicion.lifter_tells and not state.solid and not said,
        name=suspicion.name,
        off_in=suspicion.off_in,
        u_in=suspicion.u_in,
        doubt=suspicion.doubt,
        sentence=suspicion.sentence,
        causes=[LikelyOut.model_validate(c, from_attributes=True) for c in suspicion.causes],
    )
