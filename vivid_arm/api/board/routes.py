"""The builds board."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import AfterValidator

from vivid_arm.api.board.schemas import BoardEntry, BoardOut
from vivid_arm.api.board.views import board_body, uncomputed_body
from vivid_arm.api.deps import Tx
from vivid_arm.records.fields import one_line
from vivid_arm.records.state.board import board_page

router = APIRouter(prefix="/api/builds", tags=["board"])


@router.get("")
def read_board(
    session: Tx,
    search: Annotated[str, Query(max_length=80), AfterValidator(one_line)] = "",
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=100)] = 30,
    removed: bool = False,
) -> BoardOut:
    """A page of the board: builds by name, the latest touched first, and what each waits for.

    With ``removed`` the builds that were put away.
    """
    page = board_page(session, search, offset, limit, board_body, uncomputed_body, removed=removed)
    return BoardOut(
        total=page.total,
        removed=page.removed,
        builds=[BoardEntry.model_validate(body) for body in page.bodies],
    )
