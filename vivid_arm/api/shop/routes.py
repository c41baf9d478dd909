"""What the shop has learned from its engines, and what a build may start from."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import AfterValidator
from sqlalchemy.orm import Session

from vivid_arm.api.board.views import work_out
from vivid_arm.api.deps import Tx
from vivid_arm.api.responses import CsvResponse
from vivid_arm.api.shop.schemas import LearnedOut, StartingOut
from vivid_arm.api.shop.views import learned_out, to_csv
from vivid_arm.core.said.learned import factor_words, hand_words
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.fields import one_line
from vivid_arm.records.learned import engines_taught, gauge_readings, starting_from

router = APIRouter(prefix="/api/shop", tags=["shop"])
Person = Annotated[str, Query(max_length=60), AfterValidator(one_line)]


@router.get("/learned")
def read_learned(session: Tx) -> LearnedOut:
    """Spread, predictions, R0, hands and the gauge study over all engines.

    Engines that changed since they were worked out are again, some at each asking; ``missing``
    are left that never were.
    """
    return _learned(session)


@router.get("/learned.csv", response_class=CsvResponse)
def read_learned_csv(session: Tx) -> CsvResponse:
    """The same as a table."""
    return CsvResponse(
        to_csv(_learned(session)),
        headers={"Content-Disposition": 'attachment; filename="learned.csv"'},
    )


@router.get("/starting")
def read_starting(session: Tx, mount: Mount, person: Person = "") -> StartingOut:
    """What a build with such rockers, read by such a person, may start from."""
    figures = starting_from(engines_taught(session)[0], mount, person)
    words = [
        factor_words(figures.factor, figures.factor_u, figures.engines),
        hand_words(figures.person, figures.hand_engines),
    ]
    return StartingOut(figures=figures, words=[w for w in words if w])


def _learned(session: Session) -> LearnedOut:
    work_out(session)
    return learned_out(*engines_taught(session), gauge_readings(session))
