"""Projects in Django's admin."""

from django.contrib import admin
from projects.models import Membership, Project, Variant


class MembershipInline(admin.TabularInline):  # type: ignore[type-arg]
    """People of a project."""

    model = Membership
    extra = 0


@admin.register(Project)
class ProjectAdmin(admin.ModelAdmin):  # type: ignore[type-arg]
    """Projects with their people."""

    list_display = ("name", "created", "archived")
    inlines = (MembershipInline,)


admin.site.register(Variant)
