"""Accounts and devices as the interface tells of them, and how a browser is let in."""

from typing import cast

from fastapi import Request, Response
from sqlalchemy.orm import Session

from vivid_arm.api.accounts.guard import Asking, cookie_name, keep_token, place_of
from vivid_arm.api.accounts.schemas import DeviceOut, HereOut, MeOut
from vivid_arm.records import accounts
from vivid_arm.records.accounts import RIGHTS, Role
from vivid_arm.records.tables import Account, SignedIn
from vivid_arm.records.whereabouts import DeviceSeen


def let_this_browser_in(
    session: Session, account: Account, request: Request, response: Response, label: str = ""
) -> MeOut:
    """Give a browser a token of its own; whoever was signed in on it before is signed out."""
    accounts.sign_out(session, request.cookies.get(cookie_name(request), ""))
    keep_token(request, response, accounts.sign_in(session, account, place_of(request), label))
    return me_out(account)


def me_out(account: Account) -> MeOut:
    """Who asks, and what he may."""
    role = cast(Role, account.role)
    return MeOut(accounts=True, name=account.name, role=role, rights=list(RIGHTS[role]))


def device_out(entry: SignedIn, by: Asking) -> DeviceOut:
    """A browser that is signed in."""
    return DeviceOut(
        id=entry.id,
        label=entry.label,
        device=entry.device,
        address=entry.address,
        made_at=entry.made_at,
        seen_at=entry.seen_at,
        here=entry.id == by.entry.id,
    )


def here_out(seen: DeviceSeen, by: Asking) -> HereOut:
    """A device in use."""
    turns = seen.at.turns
    return HereOut(
        id=seen.id,
        name=seen.name,
        label=seen.label,
        mine=seen.id == by.entry.id,
        station=seen.at.station,
        build_id=seen.at.build_id if seen.build_name else None,
        build_name=seen.build_name,
        valve_id=seen.at.valve_id if seen.valve_name else None,
        valve_name=seen.valve_name,
        turns=None if turns is None else float(turns),
    )
