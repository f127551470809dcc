"""The audit log."""

from __future__ import annotations

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
