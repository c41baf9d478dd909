"""The board's rows of builds that are being read, kept a little after."""

import asyncio
from collections.abc import Callable
from contextvars import copy_context
from functools import partial
from uuid import UUID

from fastapi.concurrency import run_in_threadpool
from sqlalchemy import Engine

from vivid_arm.api.board.views import board_body
from vivid_arm.core.words import language
from vivid_arm.records.state.board import keep_row
from vivid_arm.records.state.build import BuildState

KEPT_EVERY_S = 4.0


class Rows:
    """The latest state of each build that a write has left, until its row is kept.

    One row for all the readings of some seconds: whoever reads quickly is not held up by each. A
    row that is not kept yet, or never is, a board works out.
    """

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._waiting: dict[tuple[UUID, str], Callable[[], None]] = {}

    def put(self, state: BuildState) -> None:
        """Keep this build's row soon, in the language and unit that are spoken here."""
        keep = partial(copy_context().run, keep_row, self._engine, state, board_body)
        self._waiting[state.build.id, language.get().key] = keep

    async def run(self) -> None:
        """Keep what has come now and then, as long as the application runs."""
        while True:
            await asyncio.sleep(KEPT_EVERY_S)
            waiting, self._waiting = self._waiting, {}
            for keep in waiting.values():
                await run_in_threadpool(keep)
