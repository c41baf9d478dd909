"""What came of an exercise on a practice engine, on paper."""

from vivid_arm.core.practice.faults import FAULTS
from vivid_arm.core.practice.scenarios import scenario_of
from vivid_arm.core.practice.score import RUNS, Ending
from vivid_arm.core.words import Unit, say
from vivid_arm.documents.paper import Filters, Paper, page_of, pdf_of
from vivid_arm.records.tables import Exercise


def _filters(unit: Unit) -> Filters:
    return {"said": lambda runs: say(RUNS[runs]), "fault": lambda kind: say(FAULTS[kind].name)}


def to_pdf(exercise: Exercise, ending: Ending, unit: Unit = "in", paper: Paper = "A4") -> bytes:
    """An ended exercise with its seed, so that anybody can set the same engine."""
    page = page_of(
        "certificate.html",
        unit,
        paper,
        _filters,
        practice=True,
        scenario=scenario_of(exercise.scenario),
        seed=exercise.seed,
        sealed=exercise.sealed,
        person=exercise.person,
        ended=exercise.ended_at.strftime("%Y-%m-%d %H:%M UTC") if exercise.ended_at else "",
        ending=ending,
    )
    return pdf_of(page)
