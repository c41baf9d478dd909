"""Decision, rod and box as the interface gives them."""

from vivid_arm.api.decide.schemas import (
    ChancesOut,
    CountOut,
    CutListOut,
    CutOut,
    DecidedValveOut,
    DecideVerdict,
    DecisionOut,
    GrowthOut,
    GrowthTermOut,
    InHandOut,
    LotOut,
    PreloadReadOut,
    RemedyOut,
    RodOut,
    RodSizeOut,
    RoomOut,
    StackPart,
    StrengthOut,
    WayOut,
)
from vivid_arm.core.engine.layout import KIND_WORDS, KINDS
from vivid_arm.core.entry.conventions import convert
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.cutting import CutList, cut_list
from vivid_arm.core.rods.decide import DRAWS, DecidedValve, Decision
from vivid_arm.core.rods.grouping import STRATEGIES, Grouping
from vivid_arm.core.rods.growth import PARTS, Growth, Stack
from vivid_arm.core.rods.strength import (
    GRAM_PER_OUNCE,
    LEAST_SAFETY,
    NEWTON_PER_LBF,
    Strength,
    largest_diameter,
)
from vivid_arm.core.said.in_hand import in_hand_verdict
from vivid_arm.core.said.verdicts import decision_verdict, fill
from vivid_arm.core.words import say
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rod import rod_figures, strengths, tips_of


def decision_out(state: BuildState) -> DecisionOut | None:
    """The build's decision; None while nothing is measured. Raises InputError."""
    found = state.decision
    if found is None:
        return None
    shelf = dict(state.shelf)
    plan = state.plan
    return DecisionOut(
        mode=found.aim.mode,
        strategy=found.strategy,
        verdict=DecideVerdict.model_validate(decision_verdict(found), from_attributes=True),
        lots=_lots(state, found, found.chosen, shelf),
        rows=[_row_out(state, row) for row in found.rows],
        ways=[
            WayOut(
                strategy=strategy,
                words=say(words),
                lots=_lots(state, found, way := found.ways[strategy], shelf),
                worst_miss_in=way.worst_miss_in,
                outside=list(way.outside),
                preload_low_in=min(_preloads(found, way)),
                preload_high_in=max(_preloads(found, way)),
            )
            for strategy, words in STRATEGIES.items()
        ],
        gains=[CountOut(lengths=n, worst_miss_in=m) for n, m in found.fewest.worst_by_count],
        remedies=[RemedyOut.model_validate(r) for r in found.remedies],
        tolerance_in=plan.tolerance_in,
        reach_turns=plan.reach_turns,
        odd_one_in=plan.odd_one_in,
        growth={kind: _growth_out(g) for kind, g in found.growths.items()},
        stack=_stack_out(plan.stack, plan.own_parts) if plan.stack else [],
        draws=DRAWS,
        all_inside=found.all_inside if found.aim.mode == "length" else None,
        warnings=_warnings(state, found),
    )


def in_hand_out(state: BuildState) -> list[InHandOut]:
    """The rods on the engine by kind: the sizes within two steps of them and the best."""
    step = float(state.build.stock_step_in)
    return [
        InHandOut(
            kind=found.kind,
            verdict=DecideVerdict.model_validate(
                in_hand_verdict(found, state.lifter), from_attributes=True
            ),
            reads=[PreloadReadOut.model_validate(r) for r in found.reads],
            quantity=found.quantity,
            off_bottom_in=found.off_bottom_in,
            wanted_in=found.wanted_in,
            sizes=[
                RodSizeOut.model_validate(s)
                for s in found.sizes
                if s is found.best or abs(s.by_in) <= 2 * step + 1e-9
            ],
        )
        for found in state.in_hand
    ]


def _preloads(found: Decision, way: Grouping) -> list[float]:
    return [
        length - valve.zero_lash_in
        for valve, length in zip(found.valves, way.lengths_in, strict=True)
    ]


def _lots(
    state: BuildState, found: Decision, way: Grouping, shelf: dict[float, int]
) -> list[LotOut]:
    return [
        LotOut(
            length_in=length,
            axis_in=length - state.offset_in,
            valves=[
                n.name for n, c in zip(found.needs, way.lengths_in, strict=True) if c == length
            ],
            in_box=shelf.get(round(length, 6), 0),
        )
        for length in way.different_in
    ]


def _row_out(state: BuildState, row: DecidedValve) -> DecidedValveOut:
    return DecidedValveOut(
        name=row.valve.name,
        kind=row.valve.kind,
        inferred=row.valve.inferred,
        zero_lash_in=row.valve.zero_lash_in - state.offset_in,
        u_in=row.valve.u_in,
        low_in=row.need.low_in,
        high_in=row.need.high_in,
        length_in=row.length_in,
        axis_in=row.length_in - state.offset_in,
        preload_in=row.preload_in,
        off_bottom_in=row.off_bottom_in,
        hot_in=row.hot_in,
        turns=row.turns,
        miss_in=row.miss_in,
        inside=row.inside,
        standing=row.standing,
        chances=ChancesOut.model_validate(row.chances),
        counted=ChancesOut.model_validate(row.counted),
    )


def _growth_out(found: Growth) -> GrowthOut:
    return GrowthOut(
        change_in=found.change_in,
        u_in=found.u_in,
        stack_in=found.stack_in,
        read_in=found.read_in,
        fit=found.fit,
        terms=[
            GrowthTermOut(
                part=t.part,
                words=say(PARTS[t.part]),
                share=t.share,
                value_in=t.value_in,
                u_in=t.u_in,
            )
            for t in found.terms
        ],
    )


def _stack_out(stack: Stack, own: frozenset[str]) -> list[StackPart]:
    return [
        StackPart(part=name, words=say(words), own=name in own, **vars(part))
        for name, words in PARTS.items()
        if (part := stack.get(name)) is not None
    ]


def _warnings(state: BuildState, found: Decision) -> list[str]:
    guessed = {v.name for v in found.valves if v.inferred}
    said = [
        say(
            "{name} is not believable as measured{inferred}.",
            name=s.name,
            inferred=say(": inferred") if s.name in guessed else "",
        )
        for s in state.suspicions.values()
    ]
    missing = [k for k in KINDS if not any(v.kind == k for v in found.valves)]
    said += [
        say(
            "No {kind} valve is measured: {kind} rods are left out.",
            kind=KIND_WORDS[k],
        )
        for k in missing
    ]
    if found.aim.mode == "adjuster" and found.aim.stud and not state.geometry:
        said.append(
            say(
                "The rod's length sets the rocker's geometry: make a mark in Rocker "
                "before ordering."
            )
        )
    said += [fill(r.what, {}, r.smalls) for r in state.spread.remarks if r.about == "shared"]
    return said + state.carried_words + state.geometry_open + state.geometry_sums


def rod_out(state: BuildState) -> RodOut:
    """The rod's page. Raises InputError."""
    build = state.build
    figures = rod_figures(build)
    length = centre_length_in(state)
    ratio = float(max(build.ratio_intake, build.ratio_exhaust))  # the spring's, valve open
    room = None
    if figures.trial_diameter_in is not None and figures.clearance_in is not None:
        found = largest_diameter(
            figures.trial_diameter_in, figures.clearance_in, figures.wanted_clearance_in
        )
        room = RoomOut(largest_in=found.largest_in, usual=found.usual)
    cuts, refusal = None, None
    try:
        cuts = cuts_of(state)
    except InputError as error:
        refusal = str(error)
    tips = tips_of(build)
    return RodOut(
        figures=figures,
        length_in=length,
        least_safety=LEAST_SAFETY,
        strengths=[strength_out(s) for s in strengths(build, length, ratio)],
        room=room,
        cut_list=_cut_list_out(cuts, tips.added_in) if cuts and tips else None,
        cut_refusal=refusal,
    )


def centre_length_in(state: BuildState) -> float:
    """Centre length of the longest rod the build takes (the weakest), inches."""
    longest = max(state.rods_in.values(), default=None)
    if longest is None:
        return 7.4
    return convert(longest, state.ordering, "centre", state.ends)


def strength_out(found: Strength) -> StrengthOut:
    tube = found.tube
    return StrengthOut(
        diameter_in=tube.diameter_in,
        wall_in=tube.wall_in,
        form=tube.form,
        length_in=tube.length_in,
        load_lbf=found.load_lbf,
        load_n=found.load_lbf * NEWTON_PER_LBF,
        euler_lbf=found.euler_lbf,
        euler_n=found.euler_lbf * NEWTON_PER_LBF,
        safety=found.safety,
        enough=found.enough,
        stress_psi=found.stress_psi,
        shortening_in=found.shortening_in,
        lift_lost_in=found.lift_lost_in,
        mass_oz=found.mass_oz,
        mass_g=found.mass_oz * GRAM_PER_OUNCE,
    )


def cuts_of(state: BuildState) -> CutList | None:
    """Tube lengths for the decided rods; None without a sample or a rod. Raises InputError."""
    tips = tips_of(state.build)
    rods = list(state.rods_in.items())
    if tips is None or not rods:
        return None
    figures = rod_figures(state.build)
    return cut_list(rods, tips, figures.bar_in, figures.kerf_in)


def _cut_list_out(found: CutList, added_in: float) -> CutListOut:
    return CutListOut(
        added_in=added_in,
        cuts=[CutOut.model_validate(c) for c in found.cuts],
        bars=found.bars,
        least_bars=found.least_bars,
        left_in=list(found.left_in),
    )
