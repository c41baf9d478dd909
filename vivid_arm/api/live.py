"""What happens in the shop, as it happens: a page that shows something else asks for it again."""

from collections.abc import AsyncIterator
from dataclasses import asdict

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from vivid_arm.api.accounts.guard import while_let_in
from vivid_arm.records.happenings import Happenings, Notice

router = APIRouter(prefix="/api/live", tags=["live"])
_AGAIN_MS = 1000


@router.get("", response_class=EventSourceResponse)
async def live(request: Request) -> AsyncIterator[ServerSentEvent]:
    """One event for each thing that moved: what it is, which build, and whose page moved it."""
    happenings: Happenings = request.app.state.happenings
    told = while_let_in(request, happenings.listen(), _may_end_it)
    async for happened in told:
        yield ServerSentEvent(data=asdict(happened), retry=_AGAIN_MS)


def _may_end_it(happened: Notice) -> bool:
    return happened.what in ("people", "all")
