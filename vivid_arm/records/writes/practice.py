"""Exercises on practice engines: started, worked on deed by deed, run at the end.

A practice engine is a build like any other, measured at the same stations; what its bench gives
follows from scenario and seed, and the truth leaves the server only with the ending.
"""

from collections.abc import Collection, Mapping
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4, uuid5

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.entry.lengths import FIELDS, check_range
from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.deeds import do
from vivid_arm.core.practice.faults import FAULTS, FaultKind
from vivid_arm.core.practice.scenarios import Scenario
from vivid_arm.core.practice.score import Effort, Ending, run
from vivid_arm.core.practice.spent import Misread, Spent, misread, spent
from vivid_arm.core.practice.tools import Bench, Got, with_rods
from vivid_arm.core.practice.truth import TIP_IN, Truth, papers_of, rods_in, truth_of
from vivid_arm.core.words import Saying, say
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.rows.kept import Conflict, exact, one_at_a_time
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.setup import cam_of
from vivid_arm.records.tables import Build, DoneDeed, Exercise
from vivid_arm.records.writes import setup

MOST_DEEDS = 5000
ROD_COSTS = 12
SOUND_HINTS = (
    Saying("Nothing has been found to be wrong with this engine."),
    Saying("Start short, read the gap, and come closer."),
    Saying("Two good readings a valve are enough here."),
)


def start(
    session: Session, exercise_id: UUID, code: str, seed: int, *, sealed: bool, person: str
) -> Exercise:
    """A practice engine on the bench; the same id again gives the one started. Raises InputError.

    ``sealed``: without hints, as for a class.
    """
    truth = truth_of(code, seed)
    one_at_a_time(session, exercise_id)
    known = session.get(Exercise, exercise_id)
    if known is not None:
        return known
    build = _new_build(session, truth, exercise_id)
    exercise = Exercise(
        id=exercise_id, build_id=build.id, scenario=code, seed=seed, sealed=sealed, person=person,
        bench=with_rods(Bench(), rods_in(truth)), named=[],
    )  # fmt: skip
    session.add(exercise)
    session.flush()
    return exercise


def _new_build(session: Session, truth: Truth, exercise_id: UUID) -> Build:
    scenario = truth.scenario
    rod = setup.new_instrument(
        session,
        {
            "id": uuid5(exercise_id, "rod"), "kind": "checking_rod", "name": say("Practice rod"),
            "convention": "theoretical", "closed_in": scenario.closed_in,
            "pitch_in": round(1 / scenario.threads, 6), "most_turns": 20.0,
            "accuracy_in": 0.001,
        },
    )  # fmt: skip
    rod.practice = True
    tool = None if scenario.rods_in_it else rod.id
    own = {"id": uuid5(exercise_id, "build"), "instrument_id": tool}
    build = setup.new_build(session, settings_of(truth) | own)
    build.exercise_id = exercise_id
    session.flush()
    kept = get_build(session, build.id)
    assert kept is not None
    first = {valve.kind: valve for valve in reversed(kept.valves)}
    for valve in first.values():
        valve.expected_in = exact(scenario.rod_in)
    session.flush()
    return kept


def settings_of(truth: Truth) -> dict[str, Any]:
    """The set-up as the owner's papers have it, true or not."""
    scenario: Scenario = truth.scenario
    low, high, target = scenario.window
    lobe = truth.card()
    lash = scenario.lash_in or (None, None)
    given = {
        "name": say("Practice: {title}", title=scenario.title), "layout": scenario.layout,
        "cylinders": scenario.cylinders, "ratio_intake": scenario.ratio,
        "ratio_exhaust": scenario.ratio, "preload_low_in": low, "preload_high_in": high,
        "preload_target_in": target, "travel_in": scenario.travel_in, "gaps": scenario.gaps,
        "stock_step_in": scenario.step_in, "lifter_kind": scenario.lifter,
        "lash_intake_in": lash[0], "lash_exhaust_in": lash[1], "mount": scenario.mount,
        "cam": {"intake": lobe, "exhaust": lobe, "icl_deg": truth.icl_deg,
                "lsa_deg": truth.lsa_deg},
    }  # fmt: skip
    if scenario.mount == "stud" or scenario.stands_low_in is not None:
        given["geometry"] = {k: {"tip": "roller", "stem_in": TIP_IN} for k in KINDS}
    if scenario.papers:
        given["prior"] = {
            kind: {"rod_in": rod, "preload_in": target, "within_in": 0.015}
            for kind, rod in papers_of(truth).items()
        }
    return BuildSettings(name=str(given["name"])).model_dump() | given


def done(session: Session, exercise: Exercise, key: UUID, name: str, how: Mapping[str, Any]) -> Got:
    """Do a deed; the same key again gives what it gave. Raises InputError or Conflict."""
    one_at_a_time(session, exercise.id)
    known = session.scalar(select(DoneDeed).where(DoneDeed.key == key))
    if known is not None:
        if known.exercise_id != exercise.id or known.name != name:
            raise Conflict(say("This key was already used."), {"name": name}, {"name": known.name})
        return Got(**known.got)
    session.refresh(exercise)
    _open(exercise)
    count = _deeds(session, exercise.id)
    if count >= MOST_DEEDS:
        raise InputError(
            "deed",
            say("{most_deeds} deeds are enough for one engine", most_deeds=MOST_DEEDS),
            code="too_many",
        )
    try:
        bench, got = do(truth_of(exercise.scenario, exercise.seed), exercise.bench, name, **how)
    except TypeError:
        raise InputError(
            "how", say("“{name}” is not done like that", name=name[:20]), code="bad_deed"
        ) from None
    exercise.bench = bench
    session.add(
        DoneDeed(key=key, exercise_id=exercise.id, number=count + 1, name=name, how=dict(how),
                 got=asdict(got))
    )  # fmt: skip
    session.flush()
    return got


def _deeds(session: Session, exercise_id: UUID) -> int:
    query = select(func.count()).select_from(DoneDeed).where(DoneDeed.exercise_id == exercise_id)
    return session.scalar(query) or 0


def _open(exercise: Exercise) -> None:
    if exercise.ended_at is not None or exercise.thrown_away:
        raise InputError(
            "exercise", say("This exercise has ended"), remedy=say("Start another"), code="ended"
        )


def hint(session: Session, exercise: Exercise) -> str:
    """The next hint, plainer each time; it costs points. Raises InputError where none is given."""
    _open(exercise)
    if exercise.sealed:
        raise InputError("hint", say("A sealed exercise gives no hints"), code="sealed")
    said = hints_of(truth_of(exercise.scenario, exercise.seed), exercise.named)
    if exercise.hints >= len(said):
        raise InputError("hint", say("There are no more hints"), code="no_hints")
    exercise.hints += 1
    session.flush()
    return said[exercise.hints - 1]


def hints_of(truth: Truth, named: Collection[FaultKind]) -> list[str]:
    """All hints of an engine in their order: three steps for each fault that was not named."""
    open_ = [f.kind for f in truth.faults if f.kind not in named]
    if not truth.faults:
        return [say(hint) for hint in SOUND_HINTS]
    return [say(FAULTS[kind].hints[step]) for step in range(3) for kind in open_]


def name_faults(session: Session, exercise: Exercise, kinds: Collection[FaultKind]) -> None:
    """Say what is wrong with the engine; the last word counts. Raises InputError."""
    _open(exercise)
    exercise.named = sorted(set(kinds))
    session.flush()


def buy(session: Session, exercise: Exercise, rods: Mapping[str, float]) -> None:
    """Buy rods by the valve they are for, in overall length; a later one takes the place.

    Raises InputError for a valve there is not, a length that cannot be, or no credits left.
    """
    _open(exercise)
    truth = truth_of(exercise.scenario, exercise.seed)
    for valve, length in rods.items():
        if valve not in truth.valves:
            raise InputError(
                "rods", say("This engine has no valve {valve}", valve=valve[:10]), code="no_valve"
            )
        check_range(length, FIELDS["rod_length"])
    left = credits_left(exercise)
    if len(rods) * ROD_COSTS > left:
        raise InputError(
            "rods",
            say(
                "{rods} rods cost {credits} credits, {left} are left",
                rods=len(rods),
                credits=len(rods) * ROD_COSTS,
                left=left,
            ),
            expected=say("at most {left} rods", left=left // ROD_COSTS),
            code="no_credits",
        )
    exercise.bench = with_rods(exercise.bench, rods)
    exercise.rods_bought += len(rods)
    session.flush()


def credits_left(exercise: Exercise) -> int:
    """Credits that are not spent yet."""
    whole = truth_of(exercise.scenario, exercise.seed).scenario.credits
    return whole - exercise.rods_bought * ROD_COSTS


def end(session: Session, exercise: Exercise, state: BuildState) -> Ending:
    """Run the engine, and keep what came of it; ended once, it stays so. Raises InputError."""
    truth = truth_of(exercise.scenario, exercise.seed)
    first = exercise.ended_at is None
    if first:
        _open(exercise)
    told, effort = first_told(session, exercise.id), effort_of(exercise, state)
    ending = run(truth, exercise.bench, exercise.named, told, effort, lash_of(state.build))
    if first:
        exercise.ending = asdict(ending)
        exercise.ended_at = datetime.now(UTC)
        session.flush()
    return ending


def lash_of(build: Build) -> dict[ValveKind, float]:
    """The lash that is set cold, by kind, where it is entered."""
    found: dict[ValveKind, float] = {}
    for kind in KINDS:
        own = build.lash_intake_in if kind == "intake" else build.lash_exhaust_in
        if own is not None:
            found[kind] = float(own)
    return found


def effort_of(exercise: Exercise, state: BuildState) -> Effort:
    """What was spent on an exercise."""
    valves = [v for v in state.valves if v.readings_count]
    extra = max(exercise.rods_bought - len(state.valves), 0)
    trials = sum(v.readings_count for v in valves)
    return Effort(trials, len(valves), extra, exercise.hints)


def took(session: Session, exercise: Exercise, state: BuildState) -> tuple[Spent, ...]:
    """What an exercise took against the best possible."""
    turned = select(func.count()).where(
        DoneDeed.exercise_id == exercise.id, DoneDeed.name == "turn_crank"
    )
    return spent(
        truth_of(exercise.scenario, exercise.seed), cam_of(state.build),
        trials=sum(v.readings_count for v in state.valves), stops=session.scalar(turned) or 0,
        rods=exercise.rods_bought, rod_costs=ROD_COSTS,
    )  # fmt: skip


def worst_reading(exercise: Exercise, state: BuildState) -> Misread | None:
    """The reading of an exercise that is furthest off the truth."""
    truth = truth_of(exercise.scenario, exercise.seed)
    return misread(truth, exercise.bench, {v.name: v.trials for v in state.valves})


def first_told(session: Session, exercise_id: UUID) -> dict[str, int]:
    """By fault, the number of the first deed that showed it."""
    query = select(DoneDeed).where(DoneDeed.exercise_id == exercise_id).order_by(DoneDeed.number)
    found: dict[str, int] = {}
    for deed in session.scalars(query):
        for kind in deed.got.get("telling", ()):
            found.setdefault(kind, deed.number)
    return found


def throw_away(session: Session, exercise: Exercise) -> None:
    """Off the list; nothing of it counts any more. Safe to repeat."""
    exercise.thrown_away = True
    session.flush()


def new_seed() -> int:
    """A seed nobody chose."""
    return uuid4().int % 1_000_000
