"""The optional second factor of the person who is signed in: set up, confirmed, removed."""

from __future__ import annotations

from typing import Any

from accounts import second_factor
from accounts.audit import record
from accounts.backends import attempts
from accounts.models import SecondFactor
from api import people_schemas, schemas
from api.access import person
from api.people import check_password, tell_owner
from django.http import HttpRequest
from ninja import Router
from ninja.errors import HttpError

router = Router()


@router.get("second-factor", response=people_schemas.SecondFactorOut)
def get_second_factor(request: HttpRequest) -> dict[str, Any]:
    """Whether there is one."""
    factor = second_factor.active(person(request))
    return {"active": factor is not None, "left": len(factor.recovery) if factor else 0}


@router.post("second-factor", response=people_schemas.SecondFactorBegun)
def begin(request: HttpRequest, body: people_schemas.PasswordAgain) -> dict[str, str]:
    """A new secret; nothing changes until a code is confirmed."""
    check_password(request, body.password, "second factor refused")
    if second_factor.active(person(request)):
        raise HttpError(422, "You sign in with a second factor already. Remove it first.")
    return second_factor.begin(person(request))


@router.post("second-factor/confirm", response=people_schemas.RecoveryCodes)
def confirm(request: HttpRequest, body: people_schemas.CodeIn) -> dict[str, list[str]]:
    """From now on signing in wants a code."""
    name = person(request).get_username()
    if attempts.wait(request, name) > 0:
        raise HttpError(429, "Too many failed attempts. Try again in a few minutes.")
    codes = second_factor.confirm(person(request), body.code)
    if codes is None:
        attempts.failed(request, name)
        raise HttpError(422, "The code is incorrect. Type the one that your device shows now; its clock must be right.")
    record(request, "second factor set up")
    tell_owner(person(request), "A second factor was set up for signing in")
    return {"codes": codes}


@router.post("second-factor/remove", response=schemas.Message)
def remove(request: HttpRequest, body: people_schemas.PasswordAgain) -> dict[str, str]:
    """Signing in wants the password alone again."""
    check_password(request, body.password, "second factor not removed")
    SecondFactor.objects.filter(user=person(request)).delete()
    record(request, "second factor removed")
    tell_owner(person(request), "The second factor for signing in was removed")
    return {"message": "The second factor is removed."}
