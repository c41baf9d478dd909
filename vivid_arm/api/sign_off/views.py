"""Checks, signatures, lash sheet and torque card as the interface gives them."""

from typing import Literal

from vivid_arm.api.heads.views import heads_out
from vivid_arm.api.sign_off.schemas import (
    CheckOut,
    LashSheetOut,
    LashStop,
    PointOut,
    SignatureOut,
    SignOffOut,
    TorqueRow,
    TorqueStageOut,
)
from vivid_arm.core.engine.base_circle import chosen_valves, plan
from vivid_arm.core.engine.layout import KINDS, ValveKind, valve_name
from vivid_arm.core.said.cautions import FITTING, TORQUE
from vivid_arm.core.sign_off.checks import CHECKS, Check, feelers_in, usual_limit
from vivid_arm.core.sign_off.torque import Torque
from vivid_arm.core.words import say, say_all
from vivid_arm.records.shapes import StageFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.setup import cam_of
from vivid_arm.records.state.sign_off import WAY_WORDS, WAYS, Point, SignOffState, cold_of
from vivid_arm.records.tables import Build

PointState = Literal["open", "passed", "failed"]


def sign_off_out(finish: SignOffState) -> SignOffOut:
    """Everything the sign-off shows."""
    state = finish.state
    return SignOffOut(
        heads=heads_out(state).heads,
        states={v.name: _valve_state(finish, v.name) for v in state.valves},
        checks=[_check_out(finish, c) for c in CHECKS if any(p.check == c for p in finish.points)],
        open_points=finish.open_points,
        notes=finish.notes,
        failing=len(finish.failing),
        missing=len(finish.missing),
        fitted=any(o.state == "fitted" for o in finish.orders),
        signatures=[
            SignatureOut(
                by=s.signed_by,
                at=s.signed_at,
                reason=s.reason,
                open_points=s.open_points,
                stale=i > 0 or bool(finish.moved_on),
                moved_on=finish.moved_on if i == 0 else [],
            )
            for i, s in enumerate(finish.signatures)
        ],
        lash=lash_sheet(state),
        torque=torque_rows(state.build),
        torque_caution=say(TORQUE),
        cautions=say_all(FITTING),
    )


def _valve_state(finish: SignOffState, name: str) -> PointState:
    own = [p for p in finish.points if p.valve.name == name]
    if any(p in finish.failing for p in own):
        return "failed"
    return "open" if any(p.required and p.judged is None for p in own) else "passed"


def _check_out(finish: SignOffState, check: Check) -> CheckOut:
    own = [p for p in finish.points if p.check == check]
    ways = WAYS.get(check.name, ("",))
    usual = [usual_limit(check, k) for k in KINDS]
    return CheckOut(
        name=check.name,
        title=say(check.title),
        how=say(check.how),
        yes_no=check.yes_no,
        ways=list(ways),
        ways_words=say_all(WAY_WORDS[w] for w in ways),
        usual_intake_in=usual[0].low_in if usual[0] else None,
        usual_exhaust_in=usual[1].low_in if usual[1] else None,
        points=[_point_out(p) for p in own],
        open=sum(1 for p in own if p.required and p.judged is None),
        failed=sum(1 for p in own if p in finish.failing),
    )


def point_state(point: Point) -> PointState:
    if point.judged is None:
        return "open"
    return "passed" if point.judged.passed else "failed"


def _point_out(point: Point) -> PointOut:
    row, limit = point.row, point.limit
    return PointOut(
        name=point.check.name,
        valve=point.valve.name,
        kind=point.valve.kind,
        required=point.required,
        low_in=limit.low_in if limit else None,
        high_in=limit.high_in if limit else None,
        limit_source=limit.source if limit else say(point.check.source),
        state=point_state(point),
        value_in=point.value_in,
        yes=row.yes if row else None,
        margin_in=point.judged.margin_in if point.judged else None,
        sure=point.judged is None or point.judged.sure,
        way="" if row is None else say(WAY_WORDS[row.way]),  # type: ignore[index]
        raw=row.raw if row else "",
        crank_deg=None if row is None or row.crank_deg is None else float(row.crank_deg),
        by=row.found_by if row else "",
        at=row.found_at if row else None,
    )


def lash_sheet(state: BuildState) -> LashSheetOut | None:
    """Which valves to set at which stop, with the feelers; None without solid lifters or lash."""
    build = state.build
    if not state.solid or build.lash_intake_in is None or build.lash_exhaust_in is None:
        return None
    lash: dict[ValveKind, float] = {
        "intake": float(build.lash_intake_in),
        "exhaust": float(build.lash_exhaust_in),
    }
    feelers = {kind: feelers_in(value) for kind, value in lash.items()}
    card = cam_of(build)
    every = chosen_valves(state.engine, "all")
    found = plan("fewest" if card else "tdc", state.engine, card, every, float(build.guard_deg))
    return LashSheetOut(
        lash_in=lash,
        cold_in={kind: cold_of(build, value) for kind, value in lash.items()},
        go_in={kind: f[0] for kind, f in feelers.items()},
        no_go_in={kind: f[1] for kind, f in feelers.items()},
        stops=[
            LashStop(
                crank_deg=stop.crank_deg,
                words=stop.look_for,
                valves=[valve_name(*v) for v in stop.valves],
            )
            for stop in found.stops
        ],
    )


def torque_rows(build: Build) -> list[TorqueRow]:
    """The torque card in every unit."""
    return [
        TorqueRow(
            name=fastener.name,
            note=fastener.note,
            stages=[_stage(s) for s in fastener.stages],
        )
        for fastener in (build.torque.fasteners if build.torque else ())
    ]


def _stage(stage: StageFigures) -> TorqueStageOut:
    if stage.value is None:
        return TorqueStageOut(
            value=None, unit=None, lbf_ft=None, lbf_in=None, n_m=None,
            angle_deg=stage.angle_deg,
        )  # fmt: skip
    torque = Torque(stage.value, stage.unit)
    return TorqueStageOut(
        value=torque.value,
        unit=torque.unit,
        lbf_ft=torque.to("lbf_ft"),
        lbf_in=torque.to("lbf_in"),
        n_m=torque.to("N_m"),
        angle_deg=stage.angle_deg,
    )
