"""The builds board."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import AfterValidator

from vivid_arm.api.board.schemas import BoardEntry, BoardOut
from vivid_arm.api.board.views import board_body, uncomputed_body
from vivid_arm.api.deps import Tx
from vivid_arm.api.responses import written
from vivid_arm.core.said.next_step import Station
from vivid_arm.records.fields import one_line
from vivid_arm.records.state.board import Shelf, Sort, Sought, board_page

Asked = Annotated[str, Query(max_length=80), AfterValidator(one_line)]
router = APIRouter(prefix="/api/builds", tags=["board"])

WORKED_OUT_WITHIN_S = 0.5
"""Nobody waits longer for the rows of a board; what is left is worked out when it asks again."""


@router.get("", response_model=BoardOut)
def read_board(
    session: Tx,
    search: Asked = "",
    shelf: Shelf = "board",
    waits: Station | None = None,
    person: Asked = "",
    sort: Sort = "changed",
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=100)] = 30,
) -> Response:
    """A page of the board: builds found by name, engine or notes, and what each waits for.

    ``shelf``: those on the board, in the archive or in the bin. ``waits``: for one station as
    it was last worked out; ``person``: read on by someone. Builds that are still to be worked
    out when there are many are said to be ``pending``; asking again goes on with them.
    """
    wanted = Sought(search.strip(), shelf, waits or "", person.strip(), sort)
    page = board_page(
        session, wanted, offset, limit, board_body, uncomputed_body, WORKED_OUT_WITHIN_S
    )
    board = BoardOut(
        total=page.total,
        archived=page.archived,
        binned=page.binned,
        builds=[
            BoardEntry.model_validate(body | {"twin": body["name"].lower() in page.twins})
            for body in page.bodies
        ],
    )
    return written(board)
