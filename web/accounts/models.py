"""The audit log, and second factors."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models


class AuditEntry(models.Model):
    """A sign-in, a refused one, or a change of who may do what. Never changed."""

    when = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    what = models.CharField(max_length=60)
    about = models.CharField(max_length=200, default="")
    address = models.CharField(max_length=60, default="")

    class Meta:
        ordering = ["-when"]

    def __str__(self) -> str:
        return f"{self.when:%Y-%m-%d %H:%M:%S} {self.who or '-'} {self.what} {self.about}"


class SecondFactor(models.Model):
    """A person's secret for one-time codes. It counts once it is ``confirmed``."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="second_factor")
    secret = models.CharField(max_length=64)
    confirmed = models.DateTimeField(null=True)
    #: The span of time whose code was used last.
    used = models.PositiveIntegerField(default=0)
    #: Recovery codes that are left, as keyed hashes.
    recovery: models.JSONField[Any, Any] = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"second factor of {self.user}"
