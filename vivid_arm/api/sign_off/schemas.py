"""What checks, signatures and the torque card take and give."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.api.heads.schemas import HeadOut
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.sign_off.checks import CheckName
from vivid_arm.records.fields import Strict, Text
from vivid_arm.records.signed_in import By
from vivid_arm.records.state.sign_off import Way


class SignIn(Strict):
    """A signature; the reason is needed while anything is open."""

    key: UUID
    by: By = ""
    reason: Annotated[Text, Field(max_length=2000)] = ""


class PointOut(BaseModel):
    """One check on one valve. ``margin_in`` is the distance to the nearer limit.

    ``sure``: false at the limit, where the reading is not good enough to tell.
    """

    name: CheckName
    valve: str
    kind: ValveKind
    required: bool
    low_in: float | None
    high_in: float | None
    limit_source: str
    state: Literal["open", "passed", "failed"]
    value_in: float | None
    yes: bool | None
    margin_in: float | None
    sure: bool
    way: str
    raw: str
    crank_deg: float | None
    by: str
    at: datetime | None


class CheckOut(BaseModel):
    """A check with all its valves, and the ways it can be made."""

    name: CheckName
    title: str
    how: str
    yes_no: bool
    ways: list[Way]
    ways_words: list[str]
    usual_intake_in: float | None
    usual_exhaust_in: float | None
    points: list[PointOut]
    open: int
    failed: int


class SignatureOut(BaseModel):
    """A signature; ``moved_on`` names what has changed since, in words."""

    by: str
    at: datetime
    reason: str
    open_points: list[str]
    stale: bool
    moved_on: list[str]


class LashStop(BaseModel):
    """One crank stop of the lash sheet and the valves to set at it."""

    crank_deg: float | None
    words: str
    valves: list[str]


class LashSheetOut(BaseModel):
    """Solid lifters: the feeler that drags and the one that must not enter, stop by stop."""

    lash_in: dict[ValveKind, float]
    cold_in: dict[ValveKind, float | None]
    go_in: dict[ValveKind, float]
    no_go_in: dict[ValveKind, float]
    stops: list[LashStop]


class TorqueStageOut(BaseModel):
    value: float | None
    unit: str | None
    lbf_ft: float | None
    lbf_in: float | None
    n_m: float | None
    angle_deg: float | None


class TorqueRow(BaseModel):
    name: str
    note: str
    stages: list[TorqueStageOut]


class SignOffOut(BaseModel):
    """The build after fitting: every check, what is open, who signed, torque card, cautions.

    ``notes``: what a careful builder would look at again, though nothing fails by it.
    """

    heads: list[HeadOut]
    states: dict[str, Literal["open", "passed", "failed"]]
    checks: list[CheckOut]
    open_points: list[str]
    notes: list[str]
    failing: int
    missing: int
    fitted: bool
    signatures: list[SignatureOut]
    lash: LashSheetOut | None
    torque: list[TorqueRow]
    torque_caution: str
    cautions: list[str]
