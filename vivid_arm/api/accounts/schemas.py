"""Accounts and sign-ins as the interface gives and takes them."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from pydantic import AfterValidator, BaseModel, Field, SecretStr

from vivid_arm.records.accounts import Right, Role
from vivid_arm.records.fields import Line, Name, Strict, Version, named

AccountName = Annotated[Name, Field(max_length=60)]
Password = Annotated[SecretStr, Field(min_length=1, max_length=200)]
Code = Annotated[Line, Field(min_length=1, max_length=40)]


def _name_or_none(text: str) -> str:
    return named(text.strip()) if text.strip() else ""


class MeOut(BaseModel):
    """Who asks. ``accounts``: whether the shop has any; without, whoever is here may do all.

    ``first``: no owner yet, so that only the code on the terminal lets in. ``name`` and ``role``
    are None while nobody is signed in.
    """

    accounts: bool
    first: bool = False
    name: str | None = None
    role: Role | None = None
    rights: list[Right]


class SignInBody(Strict):
    """A name and its password."""

    name: AccountName
    password: Password


class JoinBody(Strict):
    """A code, the password it is to set, and for the first owner a name."""

    code: Code
    name: Annotated[Line, Field(max_length=60), AfterValidator(_name_or_none)] = ""
    password: Password


class SignOutBody(Strict):
    """``everywhere``: in every browser of the account."""

    everywhere: bool = False


class PasswordBody(Strict):
    """The password of now, and the one to come."""

    old: Password
    new: Password


class DeviceOut(BaseModel):
    """A browser that is signed in; ``label``: what a paired one is called; ``here``: that asks."""

    id: UUID
    label: str
    device: str
    address: str
    made_at: datetime
    seen_at: datetime
    here: bool


class AccountOut(BaseModel):
    """An account. ``ready``: its password is set; ``code`` is told once, when it is made."""

    id: UUID
    version: int
    name: str
    role: Role
    active: bool
    ready: bool
    devices: list[DeviceOut]
    code: str | None = None


class AccountIn(Strict):
    """A new account."""

    id: UUID
    name: AccountName
    role: Role


class AccountChange(Strict):
    """Another role, or shut out and let in again."""

    version: Version
    role: Role | None = None
    active: bool | None = None


class PairingOut(BaseModel):
    """How a device is paired, told once.

    ``picture`` is the QR code of ``address`` as a data URL, ``code`` what is typed instead.
    ``fingerprint``: of the shop's own certificate, where it has one, since the device will ask
    about it. ``only_here``: the address is one that no other device reaches.
    """

    code: str
    address: str
    picture: str
    until: datetime
    fingerprint: str | None
    only_here: bool


class PairBody(Strict):
    """A pairing code, and what the device is to be called."""

    code: Code
    label: Annotated[Line, Field(max_length=40)] = ""


class HereBody(Strict):
    """What a page shows: its station, and where it has one, build, valve and the rod's turns."""

    station: Annotated[str, Field(pattern="^[a-z_]{1,20}$")]
    build_id: UUID | None = None
    valve_id: UUID | None = None
    turns: Annotated[float | None, Field(ge=0, le=100)] = None


class HereOut(BaseModel):
    """A device in use and where it stands; ``mine``: the one that asks."""

    id: UUID
    name: str
    label: str
    mine: bool
    station: str
    build_id: UUID | None
    build_name: str | None
    valve_id: UUID | None
    valve_name: str | None
    turns: float | None


class ShopRules(Strict):
    """``nods``: what an apprentice settles waits for a builder's nod."""

    nods: bool
