"""The audit log in Django's admin, to read only."""

from accounts.models import AuditEntry, SecondFactor
from django.contrib import admin
from django.http import HttpRequest


@admin.register(AuditEntry)
class AuditEntryAdmin(admin.ModelAdmin):  # type: ignore[type-arg]
    """Sign-ins and changes of rights, newest first."""

    list_display = ("when", "who", "what", "about", "address")
    list_filter = ("what",)
    search_fields = ("about", "who__username")

    def has_add_permission(self, request: HttpRequest) -> bool:
        """Only the program writes."""
        return False

    def has_change_permission(self, request: HttpRequest, obj: AuditEntry | None = None) -> bool:
        """Nobody rewrites history."""
        return False

    def has_delete_permission(self, request: HttpRequest, obj: AuditEntry | None = None) -> bool:
        """Nor takes it away."""
        return False


@admin.register(SecondFactor)
class SecondFactorAdmin(admin.ModelAdmin):  # type: ignore[type-arg]
    """Who has one; taking it away is the last way back for somebody who lost device and recovery codes."""

    list_display = ("user", "confirmed")
    fields = ("user", "confirmed")

    def has_add_permission(self, request: HttpRequest) -> bool:
        """Everybody makes their own."""
        return False

    def has_change_permission(self, request: HttpRequest, obj: SecondFactor | None = None) -> bool:
        """Secrets are nobody else's."""
        return False
