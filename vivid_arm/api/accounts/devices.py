"""Devices: pairing one by a picture, ending one, and where each stands."""

from datetime import UTC, datetime
from decimal import Decimal
from uuid import UUID

import segno
from fastapi import APIRouter, Request, Response

from vivid_arm.api.accounts.guard import Me, place_of, with_accounts
from vivid_arm.api.accounts.schemas import (
    DeviceOut,
    HereBody,
    HereOut,
    MeOut,
    PairBody,
    PairingOut,
)
from vivid_arm.api.accounts.views import device_out, here_out, let_this_browser_in
from vivid_arm.api.deps import Tx
from vivid_arm.api.problems import NotFound
from vivid_arm.core.words import say
from vivid_arm.records import accounts, whereabouts
from vivid_arm.records.accounts import PAIRING_LASTS, may
from vivid_arm.records.whereabouts import Whereabouts, who_is_where

router = APIRouter(prefix="/api", tags=["accounts"])
_ONLY_HERE = {"127.0.0.1", "localhost", "::1"}


@router.post("/pairings", status_code=201)
def make_pairing(by: Me, request: Request, session: Tx) -> PairingOut:
    """A code that signs one more device in as whoever asks: once, within two minutes."""
    code = accounts.new_pairing(session, by.account)
    address = request.url.replace(path="/pair", query="", fragment=code)
    # Behind the sign #, so that no server writes the code down.
    picture = segno.make(str(address), error="m", micro=False)
    return PairingOut(
        code=code,
        address=str(address),
        picture=picture.svg_data_uri(border=4, dark="#000", light="#fff"),
        until=datetime.now(UTC) + PAIRING_LASTS,
        fingerprint=request.app.state.fingerprint,
        only_here=request.url.hostname in _ONLY_HERE,
    )


@router.post("/pair")
def pair(body: PairBody, request: Request, response: Response) -> MeOut:
    """Sign a device in by a pairing code."""
    with_accounts(request)
    factory = request.app.state.sessions
    with factory.begin() as session:
        accounts.count_try(session, "", place_of(request))
    with factory.begin() as session:
        account = accounts.pair(session, body.code)
        return let_this_browser_in(session, account, request, response, body.label.strip())


@router.get("/devices")
def read_devices(by: Me, session: Tx) -> list[DeviceOut]:
    """The browsers on which whoever asks is signed in."""
    own = [e for e in accounts.sign_ins(session) if e.account_id == by.account.id]
    return [device_out(e, by) for e in own]


@router.post("/devices/{device_id}/sign-out")
def sign_out_device(device_id: UUID, by: Me, session: Tx) -> list[DeviceOut]:
    """Sign out a device of one's own; an owner any. Safe to repeat."""
    found = accounts.device(session, device_id)
    if found is None or not (found.account_id == by.account.id or may(by.account.role, "own")):
        raise NotFound(say("There is no such device of yours."))
    accounts.sign_out_device(session, device_id)
    return read_devices(by, session)


@router.get("/here")
def read_here(by: Me, session: Tx) -> list[HereOut]:
    """Every device in use, and where it stands."""
    return [here_out(seen, by) for seen in who_is_where(session)]


@router.post("/here")
def stand_here(body: HereBody, by: Me, session: Tx) -> list[HereOut]:
    """Say where a device stands; said again every 20 s, or it is taken to be gone."""
    turns = None if body.turns is None else Decimal(str(round(body.turns, 3)))
    now = Whereabouts(body.station, body.build_id, body.valve_id, turns)
    whereabouts.stand(session, by.entry.id, now)
    return read_here(by, session)
