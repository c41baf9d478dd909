"""A failed count-back: which trials the slip can reach."""

import pytest

from vivid_arm.core.entry.lengths import parse_bolts
from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.bracket import Feel, Trial
from vivid_arm.core.zero_lash.recount import LOOKED_AT, OFFERED, recounts

TURN = 0.05


def at(*set_: tuple[float, Feel]) -> list[Trial]:
    return [Trial(n, 6.8 + TURN * turns, feel) for n, (turns, feel) in enumerate(set_, 1)]


def test_the_slip_that_leaves_no_contradiction_comes_first() -> None:
    """11 tight, 10 loose, 10 1/2 zero, half a turn too long at the end: moved since the first or
    the second trial the three agree; the last alone would be zero where the rod was loose."""
    found = recounts(at((11, "tight"), (10, "loose"), (10.5, "zero")), -0.5 * TURN, 1.7)
    assert set(found[:2]) == {1, 2}


def test_a_slip_that_would_cross_trials_is_not_offered() -> None:
    """A whole turn longer since the second trial would be loose beyond a tight rod."""
    found = recounts(at((10.5, "tight"), (10, "loose")), TURN, 1.7)
    assert found == (1,)


def test_where_every_slip_contradicts_all_are_offered() -> None:
    found = recounts(at((10, "tight"), (11, "loose"), (10.5, "zero")), TURN, 1.7)
    assert set(found) == {1, 2, 3}


def test_a_long_log_is_looked_at_from_its_end() -> None:
    """No more places than a hand can choose from, however many trials there are."""
    many = at(*[(10, "loose"), (10.5, "tight")] * 40)  # type: ignore[list-item]
    found = recounts(many, -0.125 * TURN, 1.7)
    assert len(found) == OFFERED
    assert all(80 - LOOKED_AT < number <= 80 for number in found)


@pytest.mark.parametrize(
    ("text", "turns"),
    [("1/2 and 3/4", (0.5, 0.75)), ("½; ¾", (0.5, 0.75)), ("0.5 & 0.75", (0.5, 0.75)),
     ("1 1/4", (1.25,)), ("1½", (1.5,)), ("1/2, 1", (0.5, 1.0)),
     ("0,5", (0.5,))],
)  # fmt: skip
def test_turns_of_two_bolts_are_read(text: str, turns: tuple[float, ...]) -> None:
    assert parse_bolts(text) == turns


@pytest.mark.parametrize("text", ["", "1/2 and 3/4 and 1", "1/2 and", "1/3"])
def test_what_is_no_count_of_bolts_is_refused(text: str) -> None:
    with pytest.raises(InputError) as refused:
        parse_bolts(text)
    assert refused.value.field == "turns"
