"""Practice engines as the interface gives them: never the truth before the end."""

from vivid_arm.api.practice.schemas import (
    BoughtRod,
    EndingOut,
    ExerciseOut,
    ExerciseRow,
    FaultChoice,
    FaultShownOut,
    LossOut,
    MisreadOut,
    ScenarioOut,
    SpentOut,
    ValveRunsOut,
)
from vivid_arm.core.engine.layout import engine_words
from vivid_arm.core.practice.faults import FAULTS
from vivid_arm.core.practice.scenarios import SCENARIOS, Scenario
from vivid_arm.core.practice.score import RUNS, Ending
from vivid_arm.core.practice.spent import Misread, Spent
from vivid_arm.core.practice.tools import BLADES_THOU
from vivid_arm.core.practice.truth import TIP_IN, Truth, truth_of
from vivid_arm.core.words import figure, say, say_all
from vivid_arm.records.tables import Exercise
from vivid_arm.records.writes.practice import ROD_COSTS, credits_left, hints_of


def fault_choices() -> list[FaultChoice]:
    """What may be named as wrong with a practice engine."""
    return [
        FaultChoice(kind=kind, name=say(words.name), effect=say(words.effect))
        for kind, words in FAULTS.items()
    ]


def scenario_out(scenario: Scenario) -> ScenarioOut:
    return ScenarioOut(
        code=scenario.code,
        title=say(scenario.title),
        story=say(scenario.story),
        goal=say(scenario.goal),
        engine_words=engine_words(scenario.layout, scenario.cylinders),
        valves=2 * scenario.cylinders,
        rods=scenario.rods,
        credits=scenario.credits,
    )


def course() -> list[ScenarioOut]:
    return [scenario_out(s) for s in SCENARIOS]


def row_out(exercise: Exercise) -> ExerciseRow:
    points = None if exercise.ending is None else float(exercise.ending["points"])
    return ExerciseRow(
        **{n: getattr(exercise, n) for n in ExerciseRow.model_fields if n != "points"},
        points=points,
    )


def exercise_out(exercise: Exercise, deeds: int) -> ExerciseOut:
    truth, bench = truth_of(exercise.scenario, exercise.seed), exercise.bench
    hints = hints_of(truth, exercise.named)
    return ExerciseOut(
        id=exercise.id,
        build_id=exercise.build_id,
        scenario=scenario_out(truth.scenario),
        seed=exercise.seed,
        sealed=exercise.sealed,
        person=exercise.person,
        crank_deg=bench.crank_deg,
        rod_in=bench.rod_in,
        turn_part=bench.turned % 1.0,
        banks=sorted({v.bank for v in truth.valves.values()}),
        blades_thou=list(BLADES_THOU),
        faults=fault_choices(),
        named=list(exercise.named),
        hints=hints[: exercise.hints],
        hints_left=0 if exercise.sealed else max(len(hints) - exercise.hints, 0),
        credits_left=credits_left(exercise),
        rod_costs=ROD_COSTS,
        bought=[BoughtRod(valve=v, length_in=n) for v, n in bench.bought],
        deeds=deeds,
        marked=bench.mark is not None,
        has_lash=truth.scenario.lash_in is not None,
        shims_in=bench.shims_in if "shaft" in truth.scenario.mount else None,
        tip_in=TIP_IN,
        ended_at=exercise.ended_at,
    )


def ending_out(
    exercise: Exercise, ending: Ending, took: tuple[Spent, ...], worst: Misread | None
) -> EndingOut:
    truth = truth_of(exercise.scenario, exercise.seed)
    return EndingOut(
        exercise=row_out(exercise),
        title=say(truth.scenario.title),
        right=ending.right,
        points=ending.points,
        valves=[ValveRunsOut(**vars(v), words=say(RUNS[v.runs])) for v in ending.valves],
        faults=[
            FaultShownOut(
                kind=s.fault.kind,
                name=say(FAULTS[s.fault.kind].name),
                effect=say(FAULTS[s.fault.kind].effect),
                where=s.fault.where,
                size_in=s.fault.size_in,
                found=s.found,
                first_deed=s.first_deed,
            )
            for s in ending.faults
        ],
        wrongly_named=say_all(FAULTS[k].name for k in ending.wrongly_named),
        losses=[LossOut(words=w, points=p) for w, p in ending.losses],
        spent=[SpentOut(**vars(s)) for s in took],
        misread=None if worst is None else MisreadOut(**vars(worst)),
        checking_rod=_rod_words(truth),
        low_in=truth.scenario.window[0],
        high_in=truth.scenario.window[1],
    )


def _rod_words(truth: Truth) -> str:
    return say(
        "{closed} closed, {value} turns to the inch",
        closed=figure(truth.closed_in, ".4f"),
        value=figure(1 / truth.pitch_in, ".0f"),
    )
