"""The optional second factor: one-time codes by time (RFC 6238) from a person's own device, and recovery codes on paper."""

from __future__ import annotations

import secrets
import time
from typing import Any

import pyotp
import segno
from accounts.models import SecondFactor
from django.contrib.auth.models import User
from django.utils import timezone
from django.utils.crypto import salted_hmac

#: Seconds that one code is shown; how many before and after the present one are taken, for clocks that differ.
STEP, DRIFT = 30, 1
RECOVERY = 8


def active(user: User) -> SecondFactor | None:
    """The factor that the person has confirmed, if any."""
    return SecondFactor.objects.filter(user=user).exclude(confirmed=None).first()


def begin(user: User) -> dict[str, str]:
    """A new secret, which counts once a code made with it is confirmed. Its text, its address for an app, and that as a picture."""
    factor, _ = SecondFactor.objects.update_or_create(
        user=user, defaults={"secret": pyotp.random_base32(), "confirmed": None, "used": 0, "recovery": []}
    )
    address = pyotp.TOTP(factor.secret).provisioning_uri(name=user.get_username(), issuer_name="Wattaxis")
    return {"secret": factor.secret, "address": address, "picture": segno.make(address, micro=False).svg_data_uri(scale=4, border=2, light="white")}


def confirm(user: User, code: str) -> list[str] | None:
    """Put the secret to use: recovery codes, shown this once; None where the code is not right."""
    factor = SecondFactor.objects.filter(user=user, confirmed=None).first()
    if factor is None or not _by_time(factor, code):
        return None
    codes = [f"{secrets.token_hex(3)}-{secrets.token_hex(3)}" for _ in range(RECOVERY)]
    factor.recovery = [_kept(one) for one in codes]
    factor.confirmed = timezone.now()
    factor.save(update_fields=["recovery", "confirmed"])
    return codes


def passes(factor: SecondFactor, code: str) -> bool:
    """Whether a code is the right one now, or a recovery code; either counts once."""
    if _by_time(factor, code):
        return True
    kept = _kept(code.strip().lower())
    if kept not in factor.recovery:
        return False
    left: Any = [one for one in factor.recovery if one != kept]
    return bool(SecondFactor.objects.filter(pk=factor.pk, recovery=factor.recovery).update(recovery=left))


def span() -> int:
    """The number of the present span of time."""
    return int(time.time()) // STEP


def _by_time(factor: SecondFactor, code: str) -> bool:
    """A code that was used, or is older than one that was, counts no more; two at once cannot both have it."""
    digits, now = "".join(code.split()), span()
    for step in range(now - DRIFT, now + DRIFT + 1):
        if secrets.compare_digest(pyotp.TOTP(factor.secret).generate_otp(step).encode(), digits.encode()):
            return bool(SecondFactor.objects.filter(pk=factor.pk, used__lt=step).update(used=step))
    return False


def _kept(code: str) -> str:
    return salted_hmac("wattaxis.recovery", code, algorithm="sha256").hexdigest()
