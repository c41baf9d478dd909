"""Stateless computation: the same figures the screens use, without a build."""

from fastapi import APIRouter

from vivid_arm.api.schemas import (
    BracketIn,
    BracketOut,
    CamFigures,
    CandidatesIn,
    CandidatesOut,
    CheckingRodIn,
    CombineIn,
    CombineOut,
    ComponentOut,
    ConvertIn,
    DoubtOut,
    FindingOut,
    FiringOrderIn,
    FiringOrderOut,
    HeadsIn,
    HeadsOut,
    LengthOut,
    LobeFigures,
    LobeOut,
    MethodIn,
    MethodOut,
    ParseIn,
    ParseOut,
    PredictIn,
    PredictOut,
    TermOut,
    TurnsIn,
    TurnsOut,
    WheelIn,
    WheelOut,
    checked,
)
from vivid_arm.api.views import candidates_out
from vivid_arm.api.wheel_views import wheel_out
from vivid_arm.core.engine.base_circle import chosen_valves
from vivid_arm.core.engine.cam import CamCard, Lobe, profile_of
from vivid_arm.core.engine.layout import Engine, parse_firing_order, usual_engine, valve_name
from vivid_arm.core.entry.conventions import RodEnd, RodEnds, convert
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import (
    FIELDS,
    check_range,
    format_length,
    format_turns,
    parse_length,
    parse_turns,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.heads.mistakes import Circumstances, catch
from vivid_arm.core.heads.spread import placed, read_spread
from vivid_arm.core.rods.preload import Lifter, choose_length
from vivid_arm.core.zero_lash.bracket import Trial, next_trial, read_bracket
from vivid_arm.core.zero_lash.combine import combine
from vivid_arm.core.zero_lash.methods import (
    Component,
    Measure,
    Source,
    extended,
    fastener_turns,
    gap_bottomed,
    gap_short,
    indicator_push,
)
from vivid_arm.core.zero_lash.predict import Amount, predict

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/length")
def read_length(body: ParseIn) -> ParseOut:
    """Read a typed length. Example: "188.15 mm" as rod_length gives 7.40748 in."""
    inches = float(parse_length(body.text, FIELDS[body.field], body.unit).inches)
    return ParseOut(
        inches=inches, in_words=format_length(inches), mm_words=format_length(inches, "mm")
    )


@router.post("/turns")
def read_turns(body: TurnsIn) -> TurnsOut:
    """Read a typed count of turns. Example: "10 1/4" gives 10.25."""
    turns = parse_turns(body.text)
    return TurnsOut(turns=turns, words=format_turns(turns))


@router.post("/firing-order")
def read_firing_order(body: FiringOrderIn) -> FiringOrderOut:
    """Read a typed firing order. Example: "1-3-4-2" gives [1, 3, 4, 2]."""
    return FiringOrderOut(firing_order=list(parse_firing_order(body.text)))


@router.post("/convention")
def convert_length(body: ConvertIn) -> LengthOut:
    """Carry a rod length from one convention to another.

    Example: 7.400 theoretical, two 5/16 balls with 0.100 holes: measured 7.383568.
    """
    checked("rod_length", body.length_in)
    ends = RodEnds(
        RodEnd(body.lifter.kind, body.lifter.ball_in, body.lifter.oil_hole_in),
        RodEnd(body.rocker.kind, body.rocker.ball_in, body.rocker.oil_hole_in),
        body.gauge_circle_in,
    )
    return LengthOut(
        length_in=convert(body.length_in, body.given, body.wanted, ends), convention=body.wanted
    )


@router.post("/checking-rod")
def set_checking_rod(body: CheckingRodIn) -> float:
    """Length of a checking rod in inches. Example: 6.800 + 10.25 x 0.050 = 7.3125."""
    checked("closed_length", body.closed_in)
    checked("thread_pitch", body.pitch_in)
    return CheckingRod(body.closed_in, body.pitch_in, body.most_turns).length_in(body.turns)


@router.post("/bracket")
def bracket(body: BracketIn) -> BracketOut:
    """What trials say, and the next one. Example: one zero at 7.3125 gives 7.3125, settled."""
    checked("closed_length", body.closed_in)
    checked("thread_pitch", body.pitch_in)
    checked("rod_length", body.expected_in)
    trials = [
        Trial(number, checked("rod_length", t.length_in) or 0.0, t.feel, t.gap_in)
        for number, t in enumerate(body.trials, 1)
    ]
    rod = CheckingRod(body.closed_in, body.pitch_in, body.most_turns)
    rod.length_in(0)
    found = read_bracket(trials, body.ratio)
    step = next_trial(
        trials, found, rod.adjuster, body.ratio, gaps=body.gaps, expected_in=body.expected_in
    )
    return BracketOut(
        longest_loose_in=found.longest_loose.length_in if found.longest_loose else None,
        shortest_tight_in=found.shortest_tight.length_in if found.shortest_tight else None,
        estimate_in=found.estimate_in,
        u_in=found.u_in,
        low_in=found.low_in,
        high_in=found.high_in,
        within_probability=found.within_probability,
        settled=found.settled,
        contradictions=[c.sentence for c in found.contradictions],
        next_in=step.length_in if step else None,
        next_turns=rod.turns_for(step.length_in) if step else None,
        next_reason=step.reason if step else None,
    )


@router.post("/candidates")
def candidates(body: CandidatesIn) -> CandidatesOut:
    """Lengths that can be bought. Example: 8.460, target 0.060, step 0.025 gives 8.525."""
    for value in body.zero_lash_in:
        checked("rod_length", value)
    checked("travel", body.travel_in)
    checked("stock_step", body.stock_step_in)
    lifter = Lifter(
        body.preload_low_in, body.preload_high_in, body.preload_target_in, body.travel_in
    )
    choice = choose_length(body.zero_lash_in, lifter, body.stock_step_in, body.bias)
    return CandidatesOut(
        exact_in=choice.exact_in,
        best_in=choice.best.length_in if choice.best else None,
        candidates=candidates_out(choice, 0.0),
    )


@router.post("/wheel")
def wheel(body: WheelIn) -> WheelOut:
    """Heel windows and plans of stops.

    Example: ICL 106, LSA 110, both durations 290: cylinder 1's intake heel from 611 to 1041.
    """
    engine = _engine(body)
    valves = chosen_valves(engine, body.selection, body.cylinder)
    card = _card(body.cam) if body.cam else None
    return wheel_out(engine, card, valves, body.guard_deg, body.closing)


def _engine(body: WheelIn | HeadsIn) -> Engine:
    if body.engine is None:
        return usual_engine(body.layout, body.cylinders)
    e = body.engine
    return Engine(
        body.layout, body.cylinders, e.bank_angle_deg, e.numbering, e.first_bank, e.rotation,
        tuple(e.firing_order), tuple(e.intervals_deg), tuple(e.valve_orders),
    )  # fmt: skip


def _card(cam: CamFigures) -> CamCard:
    intake, exhaust = (Lobe(**lobe.model_dump()) for lobe in (cam.intake, cam.exhaust))
    return CamCard(intake, exhaust, cam.icl_deg, cam.lsa_deg)


@router.post("/lobe")
def lobe(body: LobeFigures) -> LobeOut:
    """A smooth lobe from a cam card; it meets both durations and the lift, and is a model."""
    found = profile_of(Lobe(**body.model_dump()))
    return LobeOut(
        model=found.model, angle_deg=found.angle_deg.tolist(), lift_in=found.lift_in.tolist()
    )


@router.post("/method")
def method(body: MethodIn) -> MethodOut:
    """One measurement by a method beside the bracket.

    Example: a rod of 7.500, gap 0.065 at ratio 1.6 gives zero lash 7.540625.
    """
    found = _measure(body)
    return MethodOut(
        zero_lash_in=found.zero_lash_in,
        preload_in=found.preload_in,
        plain_in=found.plain_in,
        u_in=found.u_in,
        components=[ComponentOut(words=c.words, u_in=abs(c.u_in)) for c in found.components],
    )


def _measure(body: MethodIn) -> Measure:
    source = Source("", checked("accuracy", body.accuracy_in) or 0.0, body.resolution_in)
    rod_in = checked("rod_length", body.rod_in)
    if body.method == "extend":
        return extended([checked("rod_length", x) or 0.0 for x in body.readings_in], source)
    if body.method == "turns":
        checked("thread_pitch", body.pitch_in)
        turns = _needed("turns", body.turns)
        return fastener_turns(turns, body.pitch_in, body.ratio, rod_in, source)
    if body.method == "indicator":
        push = check_range(_needed("push_in", body.push_in), FIELDS["push"])
        return indicator_push(push, source, rod_in)
    gap = check_range(_needed("gap_in", body.gap_in), FIELDS["gap"])
    if body.method == "gap_short":
        return gap_short(gap, _needed("rod_in", rod_in), body.ratio, source)
    checked("travel", body.travel_in)
    return gap_bottomed(gap, body.travel_in, body.ratio, rod_in, source)


def _needed(field: str, value: float | None) -> float:
    if value is None:
        raise InputError(field, f"{field} is empty", expected="a value", code="empty")
    return value


@router.post("/predict")
def predicted(body: PredictIn) -> PredictOut:
    """Zero lash to expect after changes.

    Example: 7.300, base circle 0.040 smaller, head milled 0.010: 7.310.
    """
    checked("rod_length", body.zero_lash_in)
    changes = {change: Amount(by, within) for change, (by, within) in body.changes.items()}
    found = predict(body.zero_lash_in, changes, body.mount, body.ratio, body.within_in)
    return PredictOut(
        zero_lash_in=found.zero_lash_in,
        u_in=found.u_in,
        terms=[
            TermOut(change=t.change, factor=t.factor, effect_in=t.effect_in) for t in found.terms
        ],
    )


@router.post("/combine")
def combined(body: CombineIn) -> CombineOut:
    """One zero-lash length from several. Example: 7.400 and 7.403, u 0.001 and 0.002: 7.4006."""
    measures = [
        Measure(
            "extend",
            number,
            checked("rod_length", m.zero_lash_in),
            None,
            tuple(Component(p.key, p.u_in, "") for p in m.parts),
        )
        for number, m in enumerate(body.measures, 1)
    ]
    found = combine(measures)
    assert found is not None
    return CombineOut(
        estimate_in=found.estimate_in,
        u_in=found.u_in,
        probability=found.probability,
        weights=list(found.weights),
        odd=found.odd.number if found.odd else None,
    )


@router.post("/heads")
def heads(body: HeadsIn) -> HeadsOut:
    """What measured valves say together, and which are not believable.

    Example: eight intakes at 7.400 but one at 7.300: that one is doubted.
    """
    engine = _engine(body)
    given = [(v.cylinder, v.kind) for v in body.valves]
    for valve in given:
        if valve[0] not in engine.firing_order or given.count(valve) > 1:
            raise InputError(
                "valves",
                f"Valve {valve_name(*valve)} is given twice or is not on this engine",
                expected=f"each valve of {engine.cylinders} cylinders once",
                code="unknown",
            )
    known = placed(engine, [(v.cylinder, v.kind, v.zero_lash_in, v.u_in) for v in body.valves])
    found = catch(known, Circumstances(body.travel_in, body.pitch_in))
    doubted = {one.name for one in found}
    spread = read_spread([v for v in known if v.name not in doubted])
    return HeadsOut(
        spread_in=spread.by_kind,
        findings=[FindingOut.model_validate(f, from_attributes=True) for f in spread.findings],
        doubts=[DoubtOut.model_validate(one, from_attributes=True) for one in found],
    )
