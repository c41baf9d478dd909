"""The certificate of an exercise: what it says, and that a name in it stays a name."""

from datetime import UTC, datetime
from uuid import uuid4

import pytest

from vivid_arm.core.practice.score import Effort, final_zero_lash_in, run
from vivid_arm.core.practice.tools import Bench, with_rods
from vivid_arm.core.practice.truth import truth_of
from vivid_arm.documents import certificate, paper
from vivid_arm.records.tables import Exercise


def page(monkeypatch: pytest.MonkeyPatch, person: str) -> str:
    truth = truth_of("stem", 12)
    bench = with_rods(
        Bench(), {n: final_zero_lash_in(truth, Bench(), v) + 0.04 for n, v in truth.valves.items()}
    )
    ending = run(truth, bench, ["card"], {truth.faults[0].kind: 7}, Effort())
    exercise = Exercise(
        id=uuid4(), build_id=uuid4(), scenario="stem", seed=12, sealed=True, person=person,
        ended_at=datetime(2026, 5, 4, 10, 30, tzinfo=UTC),
    )  # fmt: skip
    made: list[str] = []
    monkeypatch.setattr(certificate, "pdf_of", lambda text: made.append(text) or b"")
    certificate.to_pdf(exercise, ending)
    return made[0]


def test_it_names_person_seed_and_what_was_missed(monkeypatch: pytest.MonkeyPatch) -> None:
    text = page(monkeypatch, "Ada")
    for words in ("Ada", "Scenario stem, seed 12", "sealed: no hints", "missed", "at deed 7",
                  "named, and not there", "2026-05-04 10:30 UTC", "65 of 100"):  # fmt: skip
        assert words in text, words
    assert paper.made_pdf(text).startswith(b"%PDF")


def test_a_hostile_name_stays_text(monkeypatch: pytest.MonkeyPatch) -> None:
    text = page(monkeypatch, '<img src="http://127.0.0.1/x">}}body{display:none}')
    assert "<img" not in text
    assert "&lt;img" in text
    assert text.index("</style>") < text.index("body{display:none}")
