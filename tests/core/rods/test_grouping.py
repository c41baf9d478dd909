"""Fewest lengths and sorting rods, against exhaustive search and SciPy's exact solvers."""

from itertools import combinations, permutations
from math import inf

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.grouping import Need, fewest_lengths, grouping, matched, remedy, share_out


def needs_of(rng: np.random.Generator, count: int, spread: float) -> list[Need]:
    """Valves with windows of unlike widths and targets anywhere in them."""
    found = []
    for i in range(count):
        low = 7.4 + rng.uniform(-spread, spread)
        high = low + rng.uniform(0.01, 0.06)
        kind = "intake" if i % 2 == 0 else "exhaust"
        target = rng.uniform(low, high)
        found.append(Need(f"{i // 2 + 1}{kind[0].upper()}", kind, low, high, target))
    return found


def worst_of(needs: list[Need], chosen: tuple[float, ...]) -> float:
    """Worst miss of a choice of lengths; infinite where a valve is left outside."""
    return max(
        min((abs(c - n.target_in) for c in chosen if n.serves(c)), default=inf) for n in needs
    )


@pytest.mark.parametrize("seed", range(60))
def test_fewest_against_trying_every_subset(seed: int) -> None:
    """Independent: exhaustive search over all subsets of up to 11 lengths."""
    rng = np.random.default_rng(seed)
    needs = needs_of(rng, int(rng.integers(2, 9)), float(rng.uniform(0.01, 0.08)))
    lengths = sorted(float(x) for x in rng.choice(np.arange(7.30, 7.56, 0.01), 11, replace=False))
    found = fewest_lengths(needs, lengths, "longer")
    fit = [n for n in needs if any(n.serves(c) for c in lengths)]
    assert {n.name for n in needs} - {n.name for n in fit} == set(found.infeasible)
    if not fit:
        assert found.chosen_in == ()
        return
    for count in range(1, len(lengths) + 1):
        best = min(worst_of(fit, c) for c in combinations(lengths, count))
        if best < inf:
            break
    assert len(found.chosen_in) == count == found.worst_by_count[0][0]
    assert worst_of(fit, found.chosen_in) == pytest.approx(best, abs=2e-6)
    assert found.worst_by_count[0][1] == pytest.approx(best, abs=2e-6)
    # Among those, none has a smaller summed miss.
    least = min(
        sum(min(abs(c - n.target_in) for c in chosen if n.serves(c)) for n in fit)
        for chosen in combinations(lengths, count)
        if worst_of(fit, chosen) <= best + 1e-6
    )
    own = sum(min(abs(c - n.target_in) for c in found.chosen_in if n.serves(c)) for n in fit)
    assert own == pytest.approx(least, abs=1e-5)
    # And another length gains just what the next entry says.
    for more, worst in found.worst_by_count[1:]:
        tried = min(worst_of(fit, c) for c in combinations(lengths, more))
        assert worst == pytest.approx(tried, abs=2e-6)


@pytest.mark.parametrize("seed", range(12))
def test_fewest_against_a_milp_solver(seed: int) -> None:
    """Independent: set cover by scipy.optimize.milp (HiGHS), 32 valves and 80 lengths."""
    rng = np.random.default_rng(100 + seed)
    needs = needs_of(rng, 32, 0.15)
    lengths = 7.2 + 0.006 * np.arange(80)
    found = fewest_lengths(needs, list(lengths), "shorter")
    fit = [n for n in needs if n.name not in found.infeasible]
    covers = np.array([[n.serves(float(c)) for c in lengths] for n in fit], dtype=float)
    solved = milp(
        np.ones(len(lengths)),
        constraints=LinearConstraint(covers, lb=1),
        integrality=np.ones(len(lengths)),
        bounds=Bounds(0, 1),
    )
    assert solved.success
    assert len(found.chosen_in) == round(solved.fun)
    # The smallest worst miss with that many: assignment variables, one per pair that serves.
    worst = found.worst_by_count[0][1]
    near = np.array(
        [[n.serves(float(c)) and abs(c - n.target_in) < worst - 1e-5 for c in lengths] for n in fit]
    )
    closer = milp(
        np.ones(len(lengths)),
        constraints=LinearConstraint(near.astype(float), lb=1),
        integrality=np.ones(len(lengths)),
        bounds=Bounds(0, 1),
    )
    assert not closer.success or round(closer.fun) > len(found.chosen_in)


def test_ties_go_the_builders_way() -> None:
    need = [Need("1I", "intake", 7.40, 7.45, 7.425)]
    assert fewest_lengths(need, [7.40, 7.45], "longer").chosen_in == (7.45,)
    assert fewest_lengths(need, [7.40, 7.45], "shorter").chosen_in == (7.40,)


def test_two_sets_and_an_odd_rod() -> None:
    """A stem that stands 0.030 tall takes its own rod; the kinds alone leave it outside."""
    needs = [
        Need(f"{c}{k[0].upper()}", k, z + 0.02, z + 0.06, z + 0.04)  # type: ignore[arg-type]
        for c in range(1, 9)
        for k, z in (("intake", 7.36 if c != 3 else 7.328), ("exhaust", 7.435))
    ]
    lengths = [7.3 + 0.025 * k for k in range(12)]
    fewest = grouping("fewest", needs, lengths, "longer")
    assert len(fewest.different_in) == 3
    assert fewest.outside == ()
    kinds = grouping("kinds", needs, lengths, "longer")
    assert len(kinds.different_in) == 2
    assert kinds.outside == ("3I",)
    one = grouping("one", needs, lengths, "longer")
    assert len(one.different_in) == 1
    assert len(one.outside) >= 8
    best = grouping("best", needs, lengths, "longer")
    assert best.worst_miss_in <= min(g.worst_miss_in for g in (fewest, kinds, one))


@pytest.mark.parametrize(
    ("nearest", "by", "shim", "stem"),
    [(7.425, -0.015, None, 0.024), (7.500, 0.020, 0.020 / 1.625, -0.032)],
)
def test_remedy_by_the_lever(nearest: float, by: float, shim: float | None, stem: float) -> None:
    """Derived by hand: shim t lengthens zero lash by t(1 + 1/R0), a stem s shortens it by s/R0."""
    found = remedy(Need("1I", "intake", 7.44, 7.48, 7.46), [nearest], 1.6, fixed=True)
    assert found.by_in == pytest.approx(by)
    assert found.shim_in == (None if shim is None else pytest.approx(shim))
    assert found.stem_in == pytest.approx(stem)


@given(st.integers(0, 10_000), st.integers(1, 6), st.integers(1, 6))
@settings(max_examples=60, deadline=None)
def test_sorting_rods_against_every_permutation(seed: int, rods: int, valves: int) -> None:
    """Independent: exhaustive search over all ways of laying rods on valves."""
    rng = np.random.default_rng(seed)
    needs = needs_of(rng, valves, 0.03)
    lengths = [float(x) for x in 7.42 + rng.normal(0, 0.03, rods)]

    def judged(pairs: list[tuple[int, int]]) -> tuple[int, float]:
        out = sum(not needs[v].serves(lengths[r]) for r, v in pairs)
        return out, sum((lengths[r] - needs[v].target_in) ** 2 for r, v in pairs)

    if rods <= valves:
        ways = (list(enumerate(p)) for p in permutations(range(valves), rods))
    else:
        ways = ([(r, v) for v, r in enumerate(p)] for p in permutations(range(rods), valves))
    best = min(judged(w) for w in ways)
    found = matched(lengths, needs)
    own = judged([(r, v) for r, v in enumerate(found) if v is not None])
    assert own[0] == best[0]
    assert own[1] == pytest.approx(best[1], abs=1e-12)
    assert sum(v is not None for v in found) == min(rods, valves)


def test_nothing_to_choose_from() -> None:
    need = [Need("1I", "intake", 7.40, 7.45, 7.425)]
    with pytest.raises(InputError, match="No length"):
        share_out(need, [], "best", "longer")
    with pytest.raises(InputError, match="No valve"):
        grouping("one", [], [7.4], "longer")
    with pytest.raises(InputError, match="target"):
        Need("1I", "intake", 7.40, 7.45, 7.5)
    assert matched([], need) == []
