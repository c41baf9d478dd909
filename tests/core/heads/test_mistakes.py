"""The mistake catcher and the spread under change of order, level and sign."""

from collections.abc import Sequence
from dataclasses import replace
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_arm.core.engine.layout import ValveKind, usual_engine
from vivid_arm.core.heads.mistakes import Cause, Circumstances, catch
from vivid_arm.core.heads.spread import (
    PlacedValve,
    borne_out_slopes,
    neighbours_say,
    placed,
    read_spread,
)

V8, SIX = usual_engine("v", 8), usual_engine("inline", 6)
NOW = Circumstances(0.140, 0.050, {"gauge length and theoretical overall": 0.0331})


def sound(seed: int, scatter: float = 0.002) -> tuple[PlacedValve, ...]:
    rng = Random(seed)
    rows: list[tuple[int, ValveKind, float, float]] = [
        (c, k, (7.40 if k == "intake" else 7.43) + rng.uniform(-scatter, scatter), 0.001)
        for head in V8.heads
        for c, k in head.valves
    ]
    return placed(V8, rows)


def spoilt(valves: Sequence[PlacedValve], at: int, by: float) -> list[PlacedValve]:
    changed = replace(valves[at], zero_lash_in=valves[at].zero_lash_in + by)
    return [changed if i == at else v for i, v in enumerate(valves)]


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 15), st.sampled_from([-0.06, -0.025, 0.03, 0.08]))
def test_the_order_of_entry_and_the_level_do_not_matter(seed: int, at: int, by: float) -> None:
    valves = spoilt(sound(seed), at, by)
    first = [(s.name, round(s.off_in, 9)) for s in catch(valves, NOW)]
    shuffled = list(valves)
    Random(seed).shuffle(shuffled)
    assert [(s.name, round(s.off_in, 9)) for s in catch(shuffled, NOW)] == first
    lifted = [replace(v, zero_lash_in=v.zero_lash_in + 1.0) for v in valves]
    assert [(s.name, round(s.off_in, 9)) for s in catch(lifted, NOW)] == first
    assert valves[at].name in [name for name, _ in first]


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_shares_are_ranked_and_never_more_than_the_whole(seed: int) -> None:
    for suspicion in catch(spoilt(sound(seed), seed % 16, -0.03), NOW):
        shares = [c.share for c in suspicion.causes]
        assert shares == sorted(shares, reverse=True)
        assert 0 < sum(shares) <= 1 + 1e-9
        assert all(c.check and c.what and c.reason for c in suspicion.causes)


@pytest.mark.parametrize(
    ("by", "listed", "never"),
    [
        (-0.120, {"off_heel"}, {"stand", "plunger"}),
        (-0.030, {"off_heel", "cup", "lifter_up"}, {"stand", "plunger"}),
        (0.025, {"stand", "plunger"}, {"off_heel", "cup", "lifter_up"}),
        (0.110, {"plunger"}, {"off_heel", "cup", "stand"}),
        (0.0331, {"convention"}, {"off_heel"}),
        (-0.050, {"turns"}, {"stand"}),
    ],
)
def test_the_way_and_size_of_a_difference_point_to_its_causes(
    by: float, listed: set[Cause], never: set[Cause]
) -> None:
    """Common practice: lobe, cup and a high lifter read short; a stand and a plunger read long."""
    said = catch(spoilt(sound(1), 4, by), NOW)[0]
    causes = {c.cause for c in said.causes}
    assert listed <= causes
    assert not never & causes


def test_neighbours_outweigh_a_prediction_that_is_off_for_all() -> None:
    """A prediction 0.030 wrong for every valve doubts none of them once they agree."""
    valves = sound(2)
    wrong = {"intake": (7.43, 0.004), "exhaust": (7.46, 0.004)}
    assert catch(valves, NOW, wrong) == ()  # type: ignore[arg-type]
    alone = catch(valves[:1], NOW, wrong)  # type: ignore[arg-type]
    assert alone == ()
    spoilt_one = catch(spoilt(valves, 3, -0.05), NOW, wrong)  # type: ignore[arg-type]
    assert [s.name for s in spoilt_one] == [valves[3].name]


def test_of_two_alone_nothing_tells_which_is_wrong() -> None:
    pair = [v for v in sound(3) if v.name in ("1I", "7I")]
    assert {s.name for s in catch(spoilt(pair, 0, 0.04), NOW)} == {"1I", "7I"}


def test_one_wild_valve_does_not_bend_slope_or_bank() -> None:
    plain = read_spread(sound(4))
    wild = read_spread(spoilt(sound(4), 6, 0.3))
    for before, after in zip(plain.slopes, wild.slopes, strict=True):
        assert after.value_in == pytest.approx(before.value_in, abs=2 * before.u_in)
    assert plain.bank_offset is not None
    assert wild.bank_offset is not None
    assert wild.bank_offset.value_in == pytest.approx(plain.bank_offset.value_in, abs=0.003)


def test_a_slope_turns_its_sign_with_the_head() -> None:
    rows: list[tuple[int, ValveKind, float, float]] = [
        (c, k, 6.5 + 0.018 * SIX.heads[0].place(c), 0.001) for c, k in SIX.heads[0].valves
    ]
    back: list[tuple[int, ValveKind, float, float]] = [(7 - c, k, z, u) for c, k, z, u in rows]
    there, again = (read_spread(placed(SIX, r)).slopes[0] for r in (rows, back))
    assert there.value_in == pytest.approx(0.018)
    assert again.value_in == pytest.approx(-0.018)
    assert there.u_in == pytest.approx(again.u_in)


def test_a_borne_out_slope_is_part_of_what_neighbours_say() -> None:
    """With 0.018 end to end the front valve is expected at its end, not at the middle."""
    rows: list[tuple[int, ValveKind, float, float]] = [
        (c, k, 6.5 + 0.018 * SIX.heads[0].place(c), 0.001) for c, k in SIX.heads[0].valves
    ]
    valves = placed(SIX, rows)
    front = next(v for v in valves if v.name == "1I")
    said = neighbours_say(front, valves, borne_out_slopes(valves))
    assert said is not None
    assert said[0] == pytest.approx(6.5, abs=1e-6)
    lone = [v for v in valves if v.name in ("1I", "6I")]
    assert neighbours_say(lone[0], lone, {}) == (
        pytest.approx(6.518),
        pytest.approx(0.00316, abs=1e-4),
    )
    assert neighbours_say(front, [front], {}) is None


@settings(max_examples=60, deadline=None)
@given(
    st.integers(0, 10_000),
    st.lists(
        st.tuples(st.integers(0, 15), st.floats(-13, 13), st.floats(0, 1)), min_size=1, max_size=4
    ),
)
def test_no_reading_is_too_far_off_to_be_doubted(
    seed: int, slips: list[tuple[int, float, float]]
) -> None:
    """Any finite reading: shares stay probabilities, and a wild one is named."""
    valves = list(sound(seed))
    for at, by, u in slips:
        valves[at] = replace(valves[at], zero_lash_in=valves[at].zero_lash_in + by, u_in=u)
    for said in catch(valves, NOW, {"intake": (7.4, 0.0), "exhaust": (7.43, 0.004)}):
        assert 0.5 <= said.doubt <= 1
        assert 0 <= sum(c.share for c in said.causes) <= 1 + 1e-9


def test_two_readings_swapped_by_far_are_swapped() -> None:
    """Kinds that stand feet apart, two readings of one cylinder exchanged: no figure is too big."""
    far = {"intake": 0.0, "exhaust": 4.0}
    valves = [replace(v, zero_lash_in=v.zero_lash_in + far[v.kind], u_in=0.0) for v in sound(3)]
    first, second = (i for i, v in enumerate(valves) if v.cylinder == 1)
    one, other = valves[first].zero_lash_in, valves[second].zero_lash_in
    valves[first] = replace(valves[first], zero_lash_in=other)
    valves[second] = replace(valves[second], zero_lash_in=one)
    said = {s.name: s.causes[0].cause for s in catch(valves, NOW)}
    assert said == {"1I": "swapped", "1E": "swapped"}


def test_a_reading_beyond_every_known_slip_says_so() -> None:
    """Common practice: nothing usual makes a reading 0.180 long; half an inch is no usual slip."""
    far = catch(spoilt(sound(5), 4, 0.5), NOW)[0]
    assert far.causes[0].cause == "other"
    assert "None of the known causes" in far.causes[0].what


@pytest.mark.parametrize(
    ("by", "known", "first"),
    [
        (0.020, {"mount": "stud"}, "plunger"),
        (0.020, {"mount": "shaft", "lifter": "solid"}, "stand"),
        (0.025, {"mount": "shaft", "gap_and_feel": True}, "stand"),
        (-0.025, {"lifter": "pumped", "settings": 3}, "lifter_up"),
        (-0.025, {"lifter": "solid", "settings": 1}, "cup"),
        (-0.060, {"lifter": "solid", "settings": 4}, "off_heel"),
        (0.050, {"mount": "shaft"}, "turns"),
        (0.0331, {"mount": "shaft", "lifter": "solid"}, "convention"),
        (0.0331, {"mount": "shaft", "lifter": "solid", "one_rod": True}, "stand"),
    ],
)
def test_what_is_known_of_the_measuring_decides_between_causes_that_shift_alike(
    by: float, known: dict[str, object], first: Cause
) -> None:
    """Common practice: on a stud the nut follows the tip whatever the stand does; a solid lifter
    has no plunger to push; a gap is read with the plunger at rest; a rod set anew seats again;
    one rod counted in turns has one convention."""
    said = catch(spoilt(sound(1), 4, by), replace(NOW, **known))  # type: ignore[arg-type]
    assert said[0].causes[0].cause == first


def test_turns_that_were_counted_back_are_not_the_first_suspect() -> None:
    valves = spoilt(sound(1), 4, -0.050)
    assert catch(valves, NOW)[0].causes[0].cause == "turns"
    assert catch(valves, replace(NOW, counted_back=True))[0].causes[0].cause != "turns"


def test_the_valves_of_the_same_stop_speak_for_or_against_the_heel() -> None:
    """Common practice: a crank that is not where it is thought to be takes others along."""
    one = spoilt(sound(1), 4, -0.030)
    mates = (one[5].name, one[6].name)
    now = {v.name: NOW for v in one} | {one[4].name: replace(NOW, settings=3, stop=mates)}
    alone = catch(one, now)[0]
    two = catch(spoilt(one, 5, -0.045), now | {one[5].name: replace(NOW, stop=(one[4].name,))})
    shares = [
        {c.cause: c.share for c in next(s for s in said if s.name == one[4].name).causes}
        for said in ((alone,), two)
    ]
    assert shares[1]["off_heel"] > 2 * shares[0]["off_heel"]
    assert all(s.causes[0].cause == "off_heel" for s in two)
    assert all(sum(found.values()) <= 1 + 1e-9 for found in shares)


def test_a_pair_read_the_other_way_round_beats_two_slips_at_once() -> None:
    """Intake and exhaust stand 0.030 apart: each off by it the other way is one mistake."""
    valves = sound(1)
    at = next(i for i, v in enumerate(valves) if v.name == "5I")
    partner = next(i for i, v in enumerate(valves) if v.name == "5E")
    both = catch(spoilt(spoilt(valves, at, 0.030), partner, -0.030), NOW)
    assert {s.name: s.causes[0].cause for s in both} == {"5I": "swapped", "5E": "swapped"}
    assert all(s.causes[0].share > 0.9 for s in both)
    one = catch(spoilt(valves, at, 0.030), NOW)
    assert [s.causes[0].cause != "swapped" for s in one] == [True]
