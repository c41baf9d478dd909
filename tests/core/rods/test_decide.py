"""Growth, chances and the decision, against simulation, the lever and facts of the trade."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import integrate, stats

from vivid_arm.core.engine.layout import KINDS
from vivid_arm.core.errors import InputError
from vivid_arm.core.heads.infer import inferred
from vivid_arm.core.heads.spread import PlacedValve, Trend
from vivid_arm.core.rods.chance import Fitted, all_inside, chance_between, odds
from vivid_arm.core.rods.decide import Aim, ValveKnown, decide, grid
from vivid_arm.core.rods.grouping import Need
from vivid_arm.core.rods.groups import MeasuredValve, group_order
from vivid_arm.core.rods.growth import Part, growth, simulate_growth, starting_stack
from vivid_arm.core.rods.preload import PRELOAD_SCHOOLS, Lifter, school_of
from vivid_arm.core.said.verdicts import group_verdict

LIFTER = Lifter(0.020, 0.060, 0.040, 0.140)
FIXED = Aim("length", LIFTER, {}, 0.0556, False)


def needed_length(stack: dict, ratio: float, hot: bool) -> float:
    """Zero-lash length of a lever at rest: derived by hand, no linearising in the lever.

    Fulcrum and tip stand at their heights over the cam axis; the arms are in the ratio
    given, so the cup hangs at fulcrum + (fulcrum - tip) / ratio over the same axis.
    """

    def height(*names: str) -> float:
        return sum(stack[n].height_in + (stack[n].free_in if hot else 0.0) for n in names)

    fulcrum = height("block", "head")
    tip = height("block", "seat", "intake_valve")
    return fulcrum + (fulcrum - tip) / ratio - height("lifter")


@pytest.mark.parametrize(("block", "head"), [("iron", "iron"), ("aluminium", "aluminium")])
@pytest.mark.parametrize("ratio", [1.4, 1.6, 1.9])
def test_growth_is_what_the_lever_needs(block: str, head: str, ratio: float) -> None:
    stack = starting_stack(block, head)  # type: ignore[arg-type]
    moved = needed_length(stack, ratio, hot=True) - needed_length(stack, ratio, hot=False)
    expected = stack["rod"].free_in - moved
    assert growth(stack, "intake", ratio).change_in == pytest.approx(expected, abs=1e-12)


def test_growth_as_the_trade_has_it() -> None:
    """Common practice: aluminium loses about 0.010 to 0.020, iron is close to neutral."""
    aluminium = growth(starting_stack("aluminium", "aluminium"), "intake", 1.6).change_in
    iron = growth(starting_stack("iron", "iron"), "intake", 1.6).change_in
    assert -0.020 <= aluminium <= -0.010
    assert abs(iron) < 0.003
    hotter = growth(starting_stack("iron", "iron"), "exhaust", 1.6).change_in
    assert hotter > iron, "a hot exhaust stem adds to it"


@pytest.mark.parametrize("kind", KINDS)
def test_growth_uncertainty_against_simulation(kind: str) -> None:
    """Independent: 200,000 draws of every figure, not linearised."""
    stack = starting_stack("aluminium", "iron")
    linear = growth(stack, kind, 1.6, 0.05)  # type: ignore[arg-type]
    drawn = simulate_growth(stack, kind, 1.6, 0.05, 200_000, np.random.default_rng(4))  # type: ignore[arg-type]
    assert drawn.mean() == pytest.approx(linear.change_in, abs=3e-5)
    assert drawn.std() == pytest.approx(linear.u_in, rel=0.02)


@pytest.mark.slow
@given(st.floats(-0.08, 0.08), st.floats(0.0005, 0.02), st.floats(0, 0.02), st.floats(0.001, 0.1))
@settings(max_examples=80, deadline=None)
def test_chance_against_quadrature(mean: float, u: float, half: float, width: float) -> None:
    """Independent: the normal integrated over the rectangle by scipy.integrate.quad."""

    def at(shift: float) -> float:
        normal = stats.norm(mean + shift, u)
        return float(normal.cdf(width) - normal.cdf(0.0))

    if half < 1e-6:
        expected = at(0.0)
    else:
        points = [p for p in (-mean, width - mean) if -half < p < half]
        area = integrate.quad(at, -half, half, epsabs=1e-12, limit=300, points=points or None)[0]
        expected = area / (2 * half)
    assert chance_between(0.0, width, mean, u, half) == pytest.approx(expected, abs=2e-6)


def valves(**offsets: float) -> list[ValveKnown]:
    return [
        ValveKnown(n, "intake" if n.endswith("I") else "exhaust", 7.4 + z, 0.002, 1.6, 0.1)
        for n, z in offsets.items()
    ]


def names(**offsets: float) -> list[ValveKnown]:
    return valves(**{f"{n[1:]}{n[0]}": z for n, z in offsets.items()})


def test_chances_agree_with_the_simulated_engines() -> None:
    aim = Aim("length", LIFTER, {}, 0.0556, False, tolerance_in=0.006)
    found = decide(
        aim, names(I1=0.0, E1=0.011, I2=-0.012, E2=0.024), 0.025, "longer", "one",
        stack=starting_stack("aluminium", "aluminium"),
    )  # fmt: skip
    for row in found.rows:
        for name in ("cold", "hot", "hot_safe"):
            exact, counted = getattr(row.chances, name), getattr(row.counted, name)
            sd = max((exact * (1 - exact) / 10_000) ** 0.5, 1e-4)
            assert abs(exact - counted) < 4.5 * sd, (row.valve.name, name)
    assert min(r.chances.cold for r in found.rows) < 0.9, "the case is not a trivial one"


def test_hot_preload_is_shown_with_its_terms() -> None:
    stack = starting_stack("aluminium", "aluminium")
    found = decide(FIXED, names(I1=0.0), 0.005, "longer", stack=stack)
    row = found.rows[0]
    assert row.preload_in == pytest.approx(0.040)
    assert row.hot_in == pytest.approx(
        0.040 + sum(t.value_in for t in found.growths["intake"].terms)
    )


@pytest.mark.parametrize(("stud", "per_turn"), [(True, 0.05 * (1 + 1 / 1.6)), (False, 0.05)])
def test_adjuster_turns_instead_of_preload(stud: bool, per_turn: float) -> None:
    """A stud's nut carries the fulcrum (the lever counts), a rocker's screw does not."""
    aim = Aim("adjuster", LIFTER, {}, 0.05, stud)
    row = decide(aim, names(I1=0.0), 0.050, "longer", picked={"intake": 7.475}).rows[0]
    assert row.preload_in == pytest.approx(0.040), "the adjuster sets it"
    assert row.turns == pytest.approx((7.475 - 7.44) / per_turn)
    assert row.chances.cold == 1.0


def test_solid_lifters_take_lash() -> None:
    aim = Aim("lash", None, {"intake": 0.016, "exhaust": 0.018}, 0.05, False)
    row = decide(aim, names(E1=0.0), 0.025, "longer").rows[0]
    assert row.need.target_in == pytest.approx(7.4 - 0.018 / 1.6)
    assert row.off_bottom_in is None
    with pytest.raises(InputError, match="lash of a solid lifter"):
        Aim("lash", None, {"intake": 0.016}, 0.05, False)


def test_what_a_valve_nobody_measured_is_taken_for() -> None:
    """Derived by hand: the mean, s sqrt(1 + 1/n) with s at least the trade's 0.003."""
    known = [
        PlacedValve(c, "intake", 7.4 + 0.001 * c, 0.001, "left bank", c / 4) for c in (1, 2, 3)
    ]
    found = inferred(4, "intake", "left bank", 1.0, known)
    assert found is not None
    assert found.zero_lash_in == pytest.approx(7.402)
    assert found.u_in == pytest.approx((0.003**2 * (1 + 1 / 3) + 0.001**2 / 3) ** 0.5)
    sloped = inferred(4, "intake", "left bank", 1.0, known, [Trend("left bank", 0.02, 0.001, 3)])
    assert sloped is not None
    assert sloped.zero_lash_in == pytest.approx(7.402 + 0.02 * 0.5)
    assert inferred(4, "exhaust", "left bank", 1.0, known) is None


def test_schools_give_windows_on_any_travel() -> None:
    """Common practice: half of 0.140 is 0.060 to 0.070; 0.020 off the bottom of 0.090."""
    half = school_of("half_travel").lifter(0.140)
    assert (half.low_in, half.high_in) == pytest.approx((0.060, 0.070))
    near = school_of("near_bottom").lifter(0.090)
    assert near.travel_in - near.target_in == pytest.approx(0.020)
    for school in PRELOAD_SCHOOLS:
        school.lifter(school.travel_in or 0.150)
    with pytest.raises(InputError, match="travel"):
        school_of("long_travel").lifter(0.090)


def test_figures_that_cannot_be() -> None:
    with pytest.raises(InputError, match="Rise of temperature: 2000 K"):
        Part(5.0, "iron", 2000.0)
    with pytest.raises(InputError, match="is missing from the stack"):
        growth({"block": Part(5.0, "iron", 70.0)}, "intake", 1.6)
    with pytest.raises(InputError, match="Length tolerance"):
        Aim("length", LIFTER, {}, 0.05, False, tolerance_in=0.2)
    with pytest.raises(InputError, match="Adjuster reach"):
        Aim("adjuster", LIFTER, {}, 0.05, False, reach_turns=0.0)
    with pytest.raises(InputError, match="No valve"):
        decide(FIXED, [], 0.025, "longer")
    with pytest.raises(InputError, match="lengths to weigh"):
        grid([Need("1I", "intake", 7.0, 8.0, 7.5)], 0.001)


def fitted(preload: float, u: float, shared: float = 0.0, odd: float = 0.0) -> Fitted:
    return Fitted(preload, u, 0.003, LIFTER.low_in, LIFTER.high_in, LIFTER.travel_in, shared, odd)


def test_all_inside_against_drawn_engines() -> None:
    """Independent: 200,000 drawn engines whose valves share a part of their error."""
    rods = [fitted(0.031, 0.006, 0.005), fitted(0.029, 0.007, 0.005), fitted(0.03, 0.005, 0.005)]
    rng = np.random.default_rng(4)
    shared = rng.normal(0, 0.005, 200_000)
    inside = np.ones(200_000, dtype=bool)
    for f in rods:
        own = rng.normal(0, np.sqrt(f.measured_u_in**2 - 0.005**2), 200_000)
        got = f.preload_in + shared + own + rng.uniform(-0.003, 0.003, 200_000)
        inside &= (got >= f.low_in) & (got <= f.high_in)
    assert all_inside(rods) == pytest.approx(inside.mean(), abs=0.004)
    apart = np.prod([odds(f).cold for f in rods])
    assert all_inside(rods) > apart + 0.02, "what is shared is counted once, not three times"


def test_an_inferred_valve_may_be_odd() -> None:
    """Independent: counted over drawn valves, one in 25 of them odd by 25 thou (1 sigma)."""
    f = fitted(0.04, 0.003, odd=0.04)
    rng = np.random.default_rng(9)
    off = rng.normal(0, 0.003, 400_000) + rng.uniform(-0.003, 0.003, 400_000)
    off += np.where(rng.random(400_000) < 0.04, rng.normal(0, 0.025, 400_000), 0)
    assert odds(f).cold == pytest.approx(np.mean(abs(off) <= 0.02), abs=0.001)
    assert odds(fitted(0.04, 0.003)).cold > 0.999


def test_measuring_more_is_worth_what_it_says() -> None:
    """After two of eight the set is not sure; measured to the end it is as sure as one that was."""

    def engine(measured: int) -> list[ValveKnown]:
        return [
            ValveKnown(f"{n}I", "intake", 7.36, 0.002 if n <= measured else 0.004, 1.6,
                       inferred=n > measured)
            for n in range(1, 9)
        ]  # fmt: skip

    few = decide(FIXED, engine(2), 0.025, "longer")
    assert few.measuring_more is not None
    count, chance = few.measuring_more
    assert few.all_inside < 0.95 <= chance
    assert decide(FIXED, engine(2 + count), 0.025, "longer").all_inside == pytest.approx(chance)
    assert decide(FIXED, engine(8), 0.025, "longer").measuring_more is None


def test_at_the_limit_is_neither_inside_nor_outside() -> None:
    """A miss of 0.6 thou where zero lash is known to ± 5 empties no list of rods."""
    narrow = Lifter(0.030, 0.0494, 0.040, 0.140)
    aim = Aim("length", narrow, {}, 0.0556, False)
    for u, standing in ((0.0025, "at the limit"), (0.0001, "outside")):
        found = decide(
            Aim("length", narrow, {}, 0.0556, False, tolerance_in=0.0),
            [ValveKnown("1I", "intake", 7.35, u, 1.6)], 0.025, "longer",
        )  # fmt: skip
        assert found.rows[0].standing == standing
        assert bool(found.fewest.infeasible) == (standing == "outside")
    assert aim.need(ValveKnown("1I", "intake", 7.35, 0.0025, 1.6)).serves(7.4) is False
    group = group_order(
        "intake", 1, [MeasuredValve(1, "intake", 7.35, 0.0025)], narrow, 0.025, "longer"
    )
    assert group.taken is not None
    assert (group.taken.length_in, group.at_limit(narrow)) == (7.4, True)
    said = group_verdict(group, narrow, 0.025)
    assert (said.state, said.what) == ("closing", "{l} is at the limit of the window.")
