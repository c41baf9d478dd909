"""The crossed gauge study against a published example, and against truths it cannot know."""

import numpy as np
import pytest

from vivid_arm.core.shop.gauge_study import GaugeStudy, StudyReading, gauge_study

# Thermal impedance of ten parts, read by three inspectors three times each: Houf and Berman,
# IEEE Trans. Components, Hybrids, Manufacturing Tech. 11 (1988) 516-524; used as an example in
# Montgomery, Design and Analysis of Experiments, chapter on random factors. From memory; the
# sums of squares below, remembered apart from the readings, bear it out.
THERMAL = """
37 38 37  41 41 40  41 42 41
42 41 43  42 42 42  43 42 43
30 31 31  31 31 31  29 30 28
42 43 42  43 43 43  42 42 42
28 30 29  29 30 29  31 29 29
42 42 43  45 45 45  44 46 45
25 26 27  28 28 30  29 27 27
40 40 40  43 42 42  43 43 41
25 25 25  27 29 28  26 26 26
35 34 34  35 35 34  35 34 35
"""
PUBLISHED = {"person": 0.5646, "person_by_valve": 0.7280, "repeat": 0.5111}


def thermal() -> np.ndarray:
    return np.array(THERMAL.split(), dtype=float).reshape(10, 3, 3)


def study_of(values: np.ndarray, tool: str = "rod") -> GaugeStudy:
    parts, people, times = values.shape
    found = gauge_study(
        [
            StudyReading(f"valve {i}", f"person {j}", tool, float(values[i, j, k]))
            for i in range(parts)
            for j in range(people)
            for k in range(times)
        ]
    )
    assert found is not None
    return found


def test_the_example_is_remembered_right() -> None:
    values = thermal()
    cells, middle = values.mean(axis=2), values.mean()
    part = 9 * ((values.mean(axis=(1, 2)) - middle) ** 2).sum()
    person = 30 * ((values.mean(axis=(0, 2)) - middle) ** 2).sum()
    both = 3 * ((cells - middle) ** 2).sum() - part - person
    rest = ((values - cells[:, :, None]) ** 2).sum()
    assert [round(x, 2) for x in (part, person, both, rest)] == [3935.96, 39.27, 48.51, 30.67]


@pytest.mark.parametrize("component", PUBLISHED)
def test_variance_components_of_the_published_example(component: str) -> None:
    found = study_of(thermal()).sd_in(component) ** 2  # type: ignore[arg-type]
    assert found == pytest.approx(PUBLISHED[component], abs=6e-5)


def test_who_reads_long_adds_up_to_nothing() -> None:
    people = study_of(thermal()).persons
    assert sum(p.offset_in or 0.0 for p in people) == pytest.approx(0.0, abs=1e-9)
    means = thermal().mean(axis=(0, 2))
    longest = max(people, key=lambda p: p.offset_in or 0.0)
    assert longest.name == f"person {int(np.argmax(means))}"


def simulated(rng: np.random.Generator, sds: tuple[float, float, float]) -> list[StudyReading]:
    """Two tools and four people on eight valves, some readings missing."""
    person_sd, tool_sd, repeat_sd = sds
    valves = rng.normal(7.5, 0.02, 8)
    people, tools = rng.normal(0, person_sd, 4), rng.normal(0, tool_sd, 3)
    return [
        StudyReading(
            f"v{i}", f"p{j}", f"t{k}", valves[i] + people[j] + tools[k] + rng.normal(0, repeat_sd)
        )
        for i in range(8)
        for j in range(4)
        for k in range(3)
        if rng.random() < 0.6
    ]


def test_unbalanced_readings_give_the_truth_on_the_whole() -> None:
    rng, truth = np.random.default_rng(7), (0.0015, 0.001, 0.001)
    found = [gauge_study(simulated(rng, truth)) for _ in range(60)]
    studies = [s for s in found if s is not None]
    for name, sd in zip(("person", "tool", "repeat"), truth, strict=True):
        mean = np.mean([s.sd_in(name) ** 2 for s in studies])  # type: ignore[arg-type]
        assert np.sqrt(mean) == pytest.approx(sd, rel=0.25), name


def test_limits_of_the_repeats_hold_as_often_as_they_say() -> None:
    rng = np.random.default_rng(11)
    held = []
    for _ in range(150):
        valves = rng.normal(7.5, 0.02, 6)
        made = valves[:, None, None] + rng.normal(0, 0.001, (6, 1, 3))
        (person,) = study_of(made).persons
        assert person.repeat_low_in is not None
        assert person.repeat_high_in is not None
        held.append(person.repeat_low_in <= 0.001 <= person.repeat_high_in)
    assert 0.90 <= np.mean(held) <= 0.99


def told(study: GaugeStudy) -> set[str]:
    return {v.component for v in study.variances if v.told}


def test_what_the_layout_cannot_tell_is_said_and_not_guessed() -> None:
    """One person; then a person for each tool: nobody can tell a hand from its tool."""
    alone = gauge_study([StudyReading("v", "a", "t", x) for x in (7.5, 7.501, 7.502)])
    assert alone is not None
    assert told(alone) == {"repeat"}
    assert alone.persons[0].offset_in is None
    own_tools = [
        StudyReading(f"v{i}", who, tool, 7.5 + i / 100 + more + k / 1000)
        for i in range(4)
        for who, tool, more in (("a", "rod", 0.0), ("b", "caliper", 0.002))
        for k in range(2)
    ]
    confounded = gauge_study(own_tools)
    assert confounded is not None
    assert not {"person", "tool"} <= told(confounded)


def test_valves_read_once_tell_nothing() -> None:
    assert gauge_study([]) is None
    assert gauge_study([StudyReading(f"v{i}", "a", "t", 7.5) for i in range(5)]) is None


def test_a_step_hides_what_is_finer() -> None:
    """A rod set in eighths of a turn that reads the same twice says nothing of a thou."""
    step = 0.05 / 8
    made = [StudyReading(f"v{i}", "a", "rod", 7.5, step) for i in (1, 1, 1, 2, 2, 2)]
    study = gauge_study(made)
    assert study is not None
    assert study.sd_in("repeat") == pytest.approx(step / 12**0.5)
    assert study.persons[0].repeat_in == pytest.approx(step / 12**0.5)


def test_people_who_set_the_same_step_are_not_known_to_agree() -> None:
    """Nothing is surer than the step: two people at one setting may differ within it."""
    step = 0.05 / 8
    made = [StudyReading(f"v{i}", who, "rod", 7.5, step) for i in range(4) for who in "abab"]
    study = gauge_study(made)
    assert study is not None
    assert study.gauge_in >= step / 12**0.5 * 0.999
    for person in study.persons:
        assert person.offset_u_in is not None
        assert person.offset_u_in >= step / 12**0.5 / person.readings**0.5 * 0.999


def test_readings_that_agree_to_the_last_figure() -> None:
    same = gauge_study([StudyReading(f"v{i}", "a", "t", 7.5) for i in (1, 1, 2, 2)])
    assert same is not None
    assert same.gauge_in < 1e-6
