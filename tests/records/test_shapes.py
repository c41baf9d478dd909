"""JSON columns: validated when written and read; settings that declare their own ranges."""

from datetime import datetime
from typing import Any
from uuid import uuid4

import pytest
from pydantic import BaseModel, Field, ValidationError
from sqlalchemy import text
from sqlalchemy.exc import StatementError
from sqlalchemy.orm import Session

from tests.builders import make_build
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import language
from vivid_arm.languages import language_of
from vivid_arm.records.fields import check_fields, fault_of, field_of, in_words, label_of
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.settings import BuildSettings, InstrumentFigures
from vivid_arm.records.shapes import EngineFigures, RodFigures, RodPlanFigures, SeenFigures
from vivid_arm.records.tables import Build, Shape, Unreadable
from vivid_arm.records.writes import setup

JSON_SETTINGS = ("engine", "cam", "prior", "geometry", "plan", "rod", "limits", "torque")


def test_every_json_column_has_its_shape() -> None:
    for name in (*JSON_SETTINGS, "lobe_tables"):
        assert isinstance(Build.__table__.columns[name].type, Shape), name


def test_what_is_kept_comes_back_as_its_shape(session: Session) -> None:
    build = make_build(session, rod=RodFigures(spring_lbf=310.0, hardened=True))
    kept = get_build(session, build.id)
    assert kept is not None
    assert kept.rod == RodFigures(spring_lbf=310.0, hardened=True)
    assert kept.engine is None


def test_a_dictionary_is_read_into_the_shape(session: Session) -> None:
    build = make_build(session, plan={"strategy": "fewest"})
    assert build.plan == RodPlanFigures(strategy="fewest")


@pytest.mark.parametrize(
    ("name", "value", "says"),
    [
        ("engine", {"firing_order": "1-2"}, "Engine, firing_order: expected a list"),
        ("rod", {"diameter_in": 9.0}, "Rod diameter: 9.0000 in is outside"),
        ("rod", {"others": [{"wall_in": 3.0}]}, "Wall: 3.0000 in is outside"),
        ("plan", {"strategy": "cheapest"}, "Plan, strategy: expected kinds, one, fewest or best"),
        ("geometry", {"intake": {"stem_in": 2.0}}, "Tip diameter: 2.0000 in is outside"),
        ("limits", {"coil": {"intake_in": 5.0}}, "Clearance: 5.0000 in is outside"),
        ("prior", {"intake": {"rod_in": 70.0, "preload_in": 0.04}}, "Rod length: 70.0000 in"),
        ("picked_intake_in", 70.0, "Rod length: 70.0000 in is outside"),
        ("travel_in", None, "Plunger travel is empty"),
        ("layout", None, "Layout is empty"),
    ],
)
def test_what_cannot_be_is_refused_in_words(
    session: Session, name: str, value: Any, says: str
) -> None:
    build = make_build(session)
    with pytest.raises(InputError, match=says):
        setup.change_build(session, build, build.version, {name: value})


def test_a_shape_that_is_none_is_never_written(session: Session) -> None:
    build = make_build(session)
    build.plan = {"strategy": "cheapest"}  # type: ignore[assignment]
    with pytest.raises(StatementError, match="strategy"):
        session.flush()
    session.rollback()


def test_a_spoilt_column_stops_only_who_uses_it(session: Session) -> None:
    """Changed behind the program's back: the row is read, its use says where and why."""
    build = make_build(session)
    session.execute(
        text("UPDATE builds SET cam = :cam WHERE id = :id"),
        {"cam": '{"icl_deg": 1}', "id": build.id},
    )
    session.commit()
    session.expire_all()
    kept = get_build(session, build.id)
    assert kept is not None
    assert kept.name == "Test build"
    assert isinstance(kept.cam, Unreadable)
    with pytest.raises(ValueError, match="intake: missing"):
        _ = kept.cam.icl_deg


def test_a_length_of_the_set_up_names_its_field() -> None:
    """A new length setting without a range would be taken unchecked."""
    free = {"bank_angle_deg"}
    shapes = (BuildSettings, InstrumentFigures)
    fields = {n: field_of(i) for s in shapes for n, i in s.model_fields.items() if n[-3:] == "_in"}
    assert [n for n, field in fields.items() if field is None and n not in free] == []
    assert len(fields) > 20


def test_names_in_words() -> None:
    assert label_of(BuildSettings, "travel_in") == "Plunger travel"
    assert label_of(InstrumentFigures, "most_turns") == "Turns the rod opens"
    assert in_words("stock_step_in") == "Stock step"
    assert in_words("valves[0].id") == "Valves[0].id"


def test_the_first_fault_is_one_that_is_there() -> None:
    with pytest.raises(ValidationError) as error:
        EngineFigures.model_validate({"numbering": "upwards", "rotation": "clockwise"})
    assert fault_of(error.value.errors()) == ("numbering", "expected along or across")
    with pytest.raises(ValidationError) as error:
        EngineFigures.model_validate({})
    assert fault_of(error.value.errors()) == ("bank_angle_deg", "missing")


class Held(BaseModel):
    """One field for each kind of limit that shapes have."""

    count: int = Field(1, ge=1, lt=100)
    share: float = Field(0.5, gt=0, le=1)
    wall: float = Field(0.1, le=0.5)
    name: str = Field("ab", min_length=2, max_length=4, pattern="[a-z]+")
    rods: list[int] = Field([1], min_length=1, max_length=2)
    sure: bool = False
    at: datetime | None = None


@pytest.mark.parametrize(
    ("given", "words", "german"),
    [
        ({"count": "x"}, "expected a whole number", "erwartet eine ganze Zahl"),
        ({"count": 1.5}, "expected a whole number", None),
        ({"count": 0}, "expected 1 or more", "erwartet 1 oder mehr"),
        ({"count": 100}, "expected less than 100", None),
        ({"share": "half"}, "expected a number", None),
        ({"share": 0}, "expected more than 0", None),
        ({"share": 1.5}, "expected at most 1", None),
        ({"wall": 2}, "expected at most 0.5", "erwartet höchstens 0,5"),
        ({"name": "abcde"}, "expected at most 4 characters", "erwartet höchstens 4 Zeichen"),
        ({"name": "a"}, "expected 2 characters or more", None),
        ({"name": "12"}, "not in the form expected", None),
        ({"rods": []}, "expected 1 of them or more", None),
        ({"rods": [1, 2, 3]}, "expected at most 2 of them", None),
        ({"sure": "perhaps"}, "expected true or false", None),
        ({"at": "soon"}, "expected a time (ISO 8601)", None),
    ],
)
def test_every_limit_is_told_in_the_words_of_the_house(
    given: dict[str, Any], words: str, german: str | None
) -> None:
    with pytest.raises(ValidationError) as error:
        Held.model_validate(given)
    found = error.value.errors()
    assert fault_of(found) == (next(iter(given)), words)
    if german is not None:
        before = language.set(language_of("de"))
        assert fault_of(found)[1] == german
        language.reset(before)


def test_a_mark_keeps_the_key_its_rows_were_written_with() -> None:
    """Rows written before the shape hold "from"."""
    seen = SeenFigures.model_validate({"from": "edge", "angle_by": "inclinometer"})
    assert seen.measured_from == "edge"
    assert seen.model_dump(by_alias=True)["from"] == "edge"
    check_fields({"one": [seen, uuid4()]})
