"""People over the wire: signing in, second factors, passwords, members, links and invitations."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from ninja import Field, Schema

#: Long enough for any sentence that somebody remembers; hashing a longer one would cost the server more than its owner.
Password = Annotated[str, Field(max_length=128)]


class PersonOut(Schema):
    """Who is signed in."""

    username: str
    staff: bool


class SessionOut(Schema):
    """The signed-in person, if any; else the variant that a share link lets this browser read, if any."""

    person: PersonOut | None
    shared: int | None = None


class SignIn(Schema):
    """Name and password, and the code of a second factor where the person has one."""

    username: str
    password: Password
    code: str = Field(default="", max_length=40)


class SignInRefused(Schema):
    """Why, and whether a code is wanted."""

    message: str
    code: bool = False


class MemberIn(Schema):
    """A person and their role."""

    username: str
    role: Literal["owner", "editor", "reader"]


class MemberOut(Schema):
    """A person of a project."""

    username: str
    role: str


class ShareOut(Schema):
    """A link that lets others read a variant."""

    id: int
    address: str
    created: datetime
    author: str


class SharedOut(Schema):
    """Where a share link leads."""

    variant: int


class InvitationIn(Schema):
    """Whom to invite, by mail address or user name, as what."""

    guest: str
    role: Literal["owner", "editor", "reader"]


class InvitationOut(Schema):
    """An invitation that nobody has followed yet."""

    id: int
    guest: str
    role: str


class InvitedOut(Schema):
    """What somebody is invited to, by whom, and the token that lets them in."""

    project: str
    role: str
    guest: str
    author: str
    token: str


class Acceptance(Schema):
    """Name and password of a new account; blank for who is signed in."""

    username: str = ""
    password: Password = ""


class PasswordChange(Schema):
    """The password now and the next one."""

    old: Password
    new: Password


class SecondFactorOut(Schema):
    """Whether the person signs in with a second factor, and the number of recovery codes left."""

    active: bool
    left: int


class SecondFactorBegun(Schema):
    """A secret for the app on a person's device: as text, as address and as a picture of it (data address)."""

    secret: str
    address: str
    picture: str


class PasswordAgain(Schema):
    """The password once more, before something that matters."""

    password: Password


class CodeIn(Schema):
    """A code from the person's device."""

    code: str = Field(max_length=40)


class RecoveryCodes(Schema):
    """Codes that stand in for the device, once each."""

    codes: list[str]


class PasswordForgotten(Schema):
    """Whose password is forgotten."""

    username: str


class PasswordReset(Schema):
    """From the link in the mail, with the new password."""

    person: str
    token: str
    password: Password
