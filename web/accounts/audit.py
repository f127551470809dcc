"""Writing to the audit log."""

import logging

from accounts.models import AuditEntry
from django.http import HttpRequest

log = logging.getLogger("wattaxis.audit")


def record(request: HttpRequest, what: str, about: str = "") -> None:
    """Keep who did what from where."""
    who = request.user if request.user.is_authenticated else None
    entry = AuditEntry.objects.create(who=who, what=what, about=about[:200], address=str(request.META.get("REMOTE_ADDR", ""))[:60])
    log.info("%s %s %s", entry.who or "-", what, entry.about.replace("\n", " "))
