"""Heel windows and plans of stops as the interface gives them."""

from collections.abc import Sequence

from vivid_arm.api.base_circle.schemas import (
    BaseCircleOut,
    StopOut,
    StopPlanOut,
    StopValve,
    TdcOut,
    WindowOut,
)
from vivid_arm.core.engine.base_circle import STOP_SCHOOLS as WHEEL_SCHOOLS
from vivid_arm.core.engine.base_circle import (
    Closing,
    StopPlan,
    ValveAt,
    heel_windows,
    plans,
    saving,
)
from vivid_arm.core.engine.cam import CamCard, ramp_below_deg
from vivid_arm.core.engine.layout import KINDS, Engine, valve_name
from vivid_arm.core.words import figure, say


def base_circle_out(
    engine: Engine,
    card: CamCard | None,
    valves: Sequence[ValveAt],
    guard_deg: float,
    closing: Closing,
) -> BaseCircleOut:
    """Windows and plans of an engine; windows stay empty without a cam card."""
    windows = heel_windows(engine, card) if card else {}
    found = plans(engine, card, valves, guard_deg, closing)
    fewest = found[0]
    return BaseCircleOut(
        rotation=engine.rotation,
        guard_deg=guard_deg,
        lobes=_lobe_words(card),
        tdcs=[TdcOut(cylinder=c, crank_deg=t) for c, t in engine.firing_tdc_deg.items()],
        windows=[
            WindowOut(
                name=valve_name(*valve),
                cylinder=valve[0],
                kind=valve[1],
                from_deg=arc.from_deg,
                to_deg=arc.to_deg,
            )
            for valve, arc in windows.items()
        ],
        plans=[_plan_out(p, saving(fewest, found[1]) if p is fewest else "") for p in found],
    )


def _lobe_words(card: CamCard | None) -> str:
    if card is None:
        return say("No cam card: the margins are not known.")
    measured = [k for k in KINDS if card.lobe(k).table is not None]
    if len(measured) == len(KINDS):
        return say("Heel from the measured lobes, where the lift stays within 0.001.")
    if measured:
        return say(
            "Heel of the {measured} from its measured lobe, the other from the cam card.",
            measured=measured[0],
        )
    ramps = [ramp_below_deg(card.lobe(k)) for k in KINDS]
    if any(ramps):
        return say(
            "The durations are stated at so much lift that the lifter is still up there: the "
            "heel is taken {ramps}° shorter at each end, which is assumed. Measure the lobe, "
            "or enter the duration at 6 thou.",
            ramps=figure(max(ramps), ".0f"),
        )
    return say("Heel from the cam card's advertised durations.")


def _plan_out(plan: StopPlan, saves: str) -> StopPlanOut:
    return StopPlanOut(
        school=plan.school,
        title=say(WHEEL_SCHOOLS[plan.school]),
        state=plan.state,
        sentence=plan.sentence,
        saves=saves,
        stops=[
            StopOut(
                crank_deg=stop.crank_deg,
                turn_deg=stop.turn_deg,
                look_for=stop.look_for,
                valves=[
                    StopValve(
                        name=valve_name(*valve),
                        margin_deg=None if stop.margins_deg is None else stop.margins_deg[i],
                    )
                    for i, valve in enumerate(stop.valves)
                ],
            )
            for stop in plan.stops
        ],
    )
