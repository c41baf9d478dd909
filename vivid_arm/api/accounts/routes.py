"""Signing in and out, and the accounts of a shop that has them."""

from collections.abc import Sequence
from typing import cast
from uuid import UUID

from fastapi import APIRouter, Request, Response

from vivid_arm.api.accounts.guard import (
    Asking,
    Me,
    Nobody,
    Owner,
    cookie_name,
    forget_token,
    place_of,
    with_accounts,
)
from vivid_arm.api.accounts.schemas import (
    AccountChange,
    AccountIn,
    AccountOut,
    JoinBody,
    MeOut,
    PasswordBody,
    ShopRules,
    SignInBody,
    SignOutBody,
)
from vivid_arm.api.accounts.views import device_out, let_this_browser_in, me_out
from vivid_arm.api.deps import Tx
from vivid_arm.api.problems import NotFound
from vivid_arm.core.words import say
from vivid_arm.records import accounts, nods
from vivid_arm.records.accounts import RIGHTS, Role
from vivid_arm.records.tables import Account, SignedIn

router = APIRouter(prefix="/api", tags=["accounts"])


@router.get("/me")
def read_me(request: Request, found: Nobody, session: Tx) -> MeOut:
    """Who asks and what he may; on a shop without accounts whoever is here may do all."""
    if not request.app.state.accounts:
        return MeOut(accounts=False, rights=list(RIGHTS["owner"]))
    if found is None:
        return MeOut(accounts=True, first=not accounts.has_owner(session), rights=[])
    return me_out(found.account)


@router.post("/sign-in")
def sign_in(body: SignInBody, request: Request, response: Response) -> MeOut:
    """Let a browser in by name and password; it gets a token of its own."""
    with_accounts(request)
    place, factory = place_of(request), request.app.state.sessions
    # The try is kept whatever comes of it.
    with factory.begin() as session:
        accounts.count_try(session, body.name, place)
    with factory.begin() as session:
        account = accounts.password_fits(session, body.name, body.password.get_secret_value())
        return let_this_browser_in(session, account, request, response)


@router.post("/join")
def join(body: JoinBody, request: Request, response: Response) -> MeOut:
    """Set a password by a code and be signed in: the first owner, or whom an owner invited."""
    with_accounts(request)
    place, factory = place_of(request), request.app.state.sessions
    with factory.begin() as session:
        accounts.count_try(session, "", place)
    with factory.begin() as session:
        password = body.password.get_secret_value()
        account = accounts.join(session, body.code, body.name or say("Owner"), password)
        return let_this_browser_in(session, account, request, response)


@router.post("/sign-out")
def sign_out(body: SignOutBody, request: Request, response: Response, session: Tx) -> MeOut:
    """Forget this browser, or every browser of the account. Safe to repeat."""
    with_accounts(request)
    token = request.cookies.get(cookie_name(request), "")
    found = accounts.who_has(session, token)
    if found is not None and body.everywhere:
        accounts.sign_out_everywhere(session, found[0].id)
    accounts.sign_out(session, token)
    forget_token(request, response)
    return MeOut(accounts=True, rights=[])


@router.post("/password")
def change_password(body: PasswordBody, by: Me, request: Request, session: Tx) -> MeOut:
    """Another password; every other browser of the account is signed out."""
    # A try at the old one counts like one at signing in: a browser left open is no way round.
    place = place_of(request)
    with request.app.state.sessions.begin() as counting:
        accounts.count_try(counting, by.account.name, place)
    account = _found(session, by.account.id)
    old, new = body.old.get_secret_value(), body.new.get_secret_value()
    accounts.change_password(session, account, old, new, by.token)
    accounts.forgive(session, account, place)
    return me_out(account)


@router.get("/accounts")
def read_accounts(by: Owner, session: Tx) -> list[AccountOut]:
    """Every account with the browsers it is signed in on."""
    entries = accounts.sign_ins(session)
    return [_out(a, entries, by) for a in accounts.accounts(session)]


@router.post("/accounts", status_code=201)
def make_account(body: AccountIn, by: Owner, session: Tx) -> AccountOut:
    """An account, and the code with which its person sets a password. The code is told once."""
    account = accounts.new_account(session, body.id, body.name, body.role)
    return _out(account, [], by, accounts.new_code(session, account))


@router.patch("/accounts/{account_id}")
def change_account(account_id: UUID, body: AccountChange, by: Owner, session: Tx) -> AccountOut:
    """Another role, or shut out, which signs out everywhere."""
    account = _found(session, account_id)
    accounts.change_account(session, account, body.version, body.role, body.active)
    session.flush()
    return _out(account, accounts.sign_ins(session), by)


@router.post("/accounts/{account_id}/code")
def make_code(account_id: UUID, by: Owner, session: Tx) -> AccountOut:
    """Another code for an account whose password was lost; earlier ones are void."""
    account = _found(session, account_id)
    code = accounts.new_code(session, account)
    return _out(account, accounts.sign_ins(session), by, code)


@router.post("/accounts/{account_id}/sign-out")
def sign_out_account(account_id: UUID, by: Owner, session: Tx) -> AccountOut:
    """Sign an account out everywhere. Safe to repeat."""
    account = _found(session, account_id)
    accounts.sign_out_everywhere(session, account.id)
    return _out(account, accounts.sign_ins(session), by)


@router.get("/shop-rules")
def read_shop_rules(by: Me, session: Tx) -> ShopRules:
    """What the owner has laid down for all."""
    return ShopRules(nods=nods.wanted(session))


@router.put("/shop-rules")
def set_shop_rules(body: ShopRules, by: Owner, session: Tx) -> ShopRules:
    """Lay it down anew. Safe to repeat."""
    nods.want(session, nods=body.nods)
    accounts.tell_people(session)
    return body


def _found(session: Tx, account_id: UUID) -> Account:
    account = session.get(Account, account_id)
    if account is None:
        raise NotFound(say("There is no such account."))
    return account


def _out(
    account: Account, entries: Sequence[SignedIn], by: Asking, code: str | None = None
) -> AccountOut:
    return AccountOut(
        id=account.id,
        version=account.version,
        name=account.name,
        role=cast(Role, account.role),
        active=account.active,
        ready=account.password is not None,
        devices=[device_out(e, by) for e in entries if e.account_id == account.id],
        code=code,
    )
