"""Accounts of a shop: who may do what, codes that make them, sign-ins, and tries that failed.

Passwords are kept as Argon2id (RFC 9106); of codes and of a browser's token only SHA-256 is
kept. A code is for one use, a token is new at each sign-in.
"""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from threading import BoundedSemaphore
from typing import Literal
from uuid import UUID, uuid4

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import ColumnElement, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.tables import Account, Invitation, SignedIn, SignInTry

Role = Literal["owner", "builder", "apprentice", "viewer"]
Right = Literal["see", "measure", "decide", "sign", "own"]
RIGHTS: dict[Role, tuple[Right, ...]] = {
    "owner": ("see", "measure", "decide", "sign", "own"),
    "builder": ("see", "measure", "decide", "sign"),
    "apprentice": ("see", "measure"),
    "viewer": ("see",),
}
"""``decide``: order, undo, put builds away. ``own``: accounts and backups."""

IDLE = timedelta(hours=12)
LONGEST = timedelta(days=30)
CODE_LASTS = timedelta(hours=24)
PAIRING_LASTS = timedelta(minutes=2)
FREE_TRIES, MOST_WAIT_S = 5, 900
FREE_TRIES_FROM_ONE_PLACE = 25
SHORTEST_PASSWORD = 10
_SEEN_EVERY = timedelta(minutes=5)
_FORGOTTEN = timedelta(days=1)
_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
_OWNS = (Account.role == "owner", Account.active, Account.password.is_not(None))
_hasher = PasswordHasher()
_one_of_two = BoundedSemaphore(2)
"""A hash takes 64 MB: many guesses at once must not take the machine."""
_NOBODY = _hasher.hash(secrets.token_hex())


class NotLetIn(Exception):
    """A sign-in that is refused; ``wait_s`` seconds until the next try is looked at."""

    def __init__(self, message: str, wait_s: int = 0) -> None:
        super().__init__(message)
        self.wait_s = wait_s


@dataclass(frozen=True)
class Place:
    """Where a sign-in comes from: its address, and what the browser calls itself."""

    address: str
    device: str


def may(role: str, right: Right) -> bool:
    """Whether someone of a role may do something."""
    return right in RIGHTS[role]  # type: ignore[index]


def accounts(session: Session) -> Sequence[Account]:
    """Every account, by name."""
    return session.scalars(select(Account).order_by(func.lower(Account.name))).all()


def sign_ins(session: Session) -> Sequence[SignedIn]:
    """Browsers that are signed in, the latest seen first."""
    alive = select(SignedIn).where(SignedIn.ended_at.is_(None), *_alive())
    return session.scalars(alive.order_by(SignedIn.seen_at.desc())).all()


def has_owner(session: Session) -> bool:
    """Whether an owner can sign in."""
    return session.scalar(select(Account.id).where(*_OWNS).limit(1)) is not None


def first_code(session: Session) -> str | None:
    """A code that makes the first owner; None where there is one. Earlier ones are void."""
    if has_owner(session):
        return None
    session.execute(delete(Invitation).where(Invitation.account_id.is_(None)))
    return _new_code(session, None)


def new_account(session: Session, id_: UUID, name: str, role: Role) -> Account:
    """Make an account that a code will open; the same id again gives what is kept.

    Raises InputError for a name that is taken.
    """
    known = session.get(Account, id_)
    if known is not None:
        return known
    taken = session.scalar(select(Account).where(func.lower(Account.name) == name.lower()))
    if taken is not None:
        raise InputError(
            "name", say("{name} has an account already", name=taken.name), received=name,
            expected=say("a name of its own"), remedy=say("Add a letter of the surname"),
        )  # fmt: skip
    account = Account(id=id_, name=name, role=role, active=True)
    session.add(account)
    session.flush()
    return account


def change_account(
    session: Session, account: Account, version: int, role: Role | None, active: bool | None
) -> None:
    """Another role, or shut out and let in again; one that is shut out is signed out.

    Raises Conflict on a stale version, InputError for the last owner.
    """
    if account.version != version:
        raise Conflict(
            say("This account was changed elsewhere."),
            {"role": role, "active": active},
            {"role": account.role, "active": account.active},
        )
    wanted = (role or account.role, account.active if active is None else active)
    if account.role == "owner" and account.active and wanted != ("owner", True):
        # Held, so that two owners cannot unmake each other at the same moment.
        owners = select(Account.id).where(*_OWNS).order_by(Account.id).with_for_update()
        if set(session.scalars(owners)) <= {account.id}:
            raise InputError(
                "role",
                say("The shop's only owner stays its owner"),
                received=wanted[0],
                expected=say("another owner first"),
                remedy=say("Make someone else owner, then change this"),
            )
    account.role, account.active = wanted
    if not account.active:
        _void_codes(session, account.id)
        sign_out_everywhere(session, account.id)


def new_code(session: Session, account: Account) -> str:
    """A code with which an account sets its password; earlier ones of it are void."""
    _void_codes(session, account.id, Invitation.pairs.is_(False))
    return _new_code(session, account.id)


def new_pairing(session: Session, account: Account) -> str:
    """A code by which one device is signed in too, for two minutes; earlier ones are void."""
    _void_codes(session, account.id, Invitation.pairs.is_(True))
    return _new_code(session, account.id, pairs=True)


def pair(session: Session, code: str) -> Account:
    """Whose device a pairing code makes; it is used up. Raises NotLetIn."""
    found = _invitation(session, code, pairs=True)
    account = session.get_one(Account, found.account_id)
    session.delete(found)
    return account


def _void_codes(session: Session, account_id: UUID, *which: ColumnElement[bool]) -> None:
    session.execute(delete(Invitation).where(Invitation.account_id == account_id, *which))


def _invitation(session: Session, code: str, *, pairs: bool) -> Invitation:
    found = session.scalar(
        select(Invitation)
        .where(Invitation.code_digest == _digest(_plain(code)), Invitation.until > func.now())
        .where(Invitation.pairs.is_(pairs))
        .with_for_update()
    )
    if found is None:
        raise NotLetIn(say("This code does not hold: it was used, is too old, or was mistyped."))
    return found


def _new_code(session: Session, account_id: UUID | None, *, pairs: bool = False) -> str:
    letters = [secrets.choice(_LETTERS) for _ in range(12)]
    code = "-".join("".join(letters[i : i + 4]) for i in (0, 4, 8))
    session.add(
        Invitation(
            code_digest=_digest(_plain(code)),
            account_id=account_id,
            until=datetime.now(UTC) + (PAIRING_LASTS if pairs else CODE_LASTS),
            pairs=pairs,
        )
    )
    session.flush()
    return code


def _plain(code: str) -> str:
    return "".join(c for c in code.upper() if c.isalnum())


def _digest(secret: str) -> str:
    return sha256(secret.encode("utf-8", "replace")).hexdigest()


def join(session: Session, code: str, name: str, password: str) -> Account:
    """Set a password by a code: the first owner's, with a name, or an account's own.

    Raises NotLetIn for a code that does not hold, InputError for a poor password.
    """
    found = _invitation(session, code, pairs=False)
    account = session.get(Account, found.account_id) if found.account_id else None
    if account is None:
        account = new_account(session, uuid4(), name, "owner")
    if not account.active:
        raise NotLetIn(say("This account is shut out. Ask the owner."))
    _check_password(account.name, password)
    account.password = _hashed(password)
    sign_out_everywhere(session, account.id)
    session.delete(found)
    return account


def change_password(session: Session, account: Account, old: str, new: str, but: str) -> None:
    """Another password; every browser but the one that says so is signed out.

    Raises InputError where the old one is wrong or the new one poor.
    """
    if not _is_password(account.password, old):
        raise InputError(
            "old", say("The old password is wrong"), expected=say("the password of now"),
            remedy=say("Ask the owner for a code if it is lost"),
        )  # fmt: skip
    _check_password(account.name, new)
    account.password = _hashed(new)
    sign_out_everywhere(session, account.id, but)


def _check_password(name: str, password: str) -> None:
    poor = (
        say("It has fewer than {shortest_password} characters", shortest_password=SHORTEST_PASSWORD)
        if len(password) < SHORTEST_PASSWORD
        else say("It is the name")
        if password.strip().lower() == name.lower()
        else say("It is one character over and over")
        if len(set(password)) < 3
        else ""
    )
    if poor:
        raise InputError(
            "password",
            poor,
            expected=say(
                "at least {shortest_password} characters", shortest_password=SHORTEST_PASSWORD
            ),
            remedy=say("Three words that do not belong together are easy to keep in mind"),
            code="poor_password",
        )


def _hashed(password: str) -> str:
    with _one_of_two:
        return _hasher.hash(password)


def _is_password(kept: str | None, typed: str) -> bool:
    """An account that is not there takes as long as one that is."""
    try:
        with _one_of_two:
            _hasher.verify(kept or _NOBODY, typed)
    except (VerificationError, InvalidHashError):
        return False
    return kept is not None


def count_try(session: Session, name: str, place: Place) -> None:
    """Count a try before it is looked at, so that many at once are no way round.

    ``name`` is empty where a code is tried, which no name stands for. Raises NotLetIn while the
    name, or the place it comes from, has to wait.
    """
    session.execute(delete(SignInTry).where(SignInTry.at < datetime.now(UTC) - _FORGOTTEN))
    limits = {_place_key(place): FREE_TRIES_FROM_ONE_PLACE}
    if name:
        limits = {_name_key(name): FREE_TRIES} | limits
    for key, free in limits.items():
        count, last = _tries_of(session, key)
        waited = (datetime.now(UTC) - last).total_seconds()
        wait = min(2.0 ** min(count - free, 20), MOST_WAIT_S) if count >= free else 0.0
        if waited < wait:
            left = int(wait - waited) + 1
            raise NotLetIn(
                say("Too many tries. The next one is looked at in {left} s.", left=left), left
            )
        session.execute(
            update(SignInTry)
            .where(SignInTry.key == key)
            .values(count=SignInTry.count + 1, at=func.clock_timestamp())
        )


def _tries_of(session: Session, key: str) -> tuple[int, datetime]:
    session.execute(insert(SignInTry).values(key=key, count=0).on_conflict_do_nothing())
    row = session.get_one(SignInTry, key, with_for_update=True, populate_existing=True)
    return row.count, row.at


def _place_key(place: Place) -> str:
    return f"from {place.address}"[:120]


def _name_key(name: str) -> str:
    return f"name {_digest(name.strip().lower())}"


def password_fits(session: Session, name: str, password: str) -> Account:
    """The account of a name and its password. Raises NotLetIn, the same for either."""
    found = select(Account).where(func.lower(Account.name) == name.strip().lower(), Account.active)
    account = session.scalar(found)
    if not _is_password(account.password if account else None, password) or account is None:
        raise NotLetIn(say("Name and password do not go together."))
    return account


def forgive(session: Session, account: Account, place: Place) -> None:
    """Forget what was tried for an account that has shown its password, or its code."""
    session.execute(delete(SignInTry).where(SignInTry.key == _name_key(account.name)))
    session.execute(
        update(SignInTry)
        .where(SignInTry.key == _place_key(place), SignInTry.count > 0)
        .values(count=SignInTry.count - 1)
    )


def sign_in(session: Session, account: Account, place: Place, label: str = "") -> str:
    """A token for one browser; it is told once and not kept. What was tried before is forgiven.

    ``label`` is what a device is called that is known by more than its browser.
    """
    forgive(session, account, place)
    token = secrets.token_urlsafe(32)
    session.add(
        SignedIn(
            id=uuid4(), token_digest=_digest(token), account_id=account.id,
            device=place.device[:120], address=place.address[:60], label=label,
        )
    )  # fmt: skip
    session.flush()
    return token


def who_has(session: Session, token: str) -> tuple[Account, SignedIn] | None:
    """Whose token it is, while it holds; that it was seen is kept now and then."""
    query = (
        select(Account, SignedIn)
        .join(SignedIn, SignedIn.account_id == Account.id)
        .where(SignedIn.token_digest == _digest(token), SignedIn.ended_at.is_(None), *_alive())
        .where(Account.active)
    )
    found = session.execute(query).one_or_none()
    if found is None:
        return None
    account, entry = found
    if datetime.now(UTC) - entry.seen_at > _SEEN_EVERY:
        seen = update(SignedIn).where(SignedIn.id == entry.id)
        session.execute(seen.values(seen_at=func.clock_timestamp()))
    return account, entry


def _alive() -> tuple[ColumnElement[bool], ...]:
    now = datetime.now(UTC)
    return SignedIn.seen_at > now - IDLE, SignedIn.made_at > now - LONGEST


def sign_out(session: Session, token: str) -> None:
    """End one browser's sign-in."""
    _end(session, SignedIn.token_digest == _digest(token))


def device(session: Session, id_: UUID) -> SignedIn | None:
    """A sign-in by its id."""
    return session.get(SignedIn, id_)


def sign_out_device(session: Session, id_: UUID) -> None:
    """End one sign-in by its id."""
    _end(session, SignedIn.id == id_)


def sign_out_everywhere(session: Session, account_id: UUID, but: str = "") -> None:
    """End every sign-in of an account, but that of a token."""
    _end(session, SignedIn.account_id == account_id, SignedIn.token_digest != _digest(but))


def _end(session: Session, *which: ColumnElement[bool]) -> None:
    session.execute(
        update(SignedIn)
        .where(SignedIn.ended_at.is_(None), *which)
        .values(ended_at=func.clock_timestamp())
    )
    tell_people(session)


def tell_people(session: Session) -> None:
    """Say to every page that someone came, went or moved."""
    session.execute(select(func.tell("people -")))
