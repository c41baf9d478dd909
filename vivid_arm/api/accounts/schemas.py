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
    """A browser that is signed in; ``here``: the one that asks."""

    id: UUID
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
