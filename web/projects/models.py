"""Projects, their variants, and the append-only revisions of each variant's document."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models


class Project(models.Model):
    """What one team works on."""

    name = models.CharField(max_length=120)
    created = models.DateTimeField(auto_now_add=True)
    archived = models.BooleanField(default=False)
    #: Set by "delete"; an owner can bring the project back.
    deleted = models.DateTimeField(null=True, blank=True)
    members: models.ManyToManyField[Any, Any] = models.ManyToManyField(settings.AUTH_USER_MODEL, through="Membership", related_name="projects")

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """Who may do what in a project."""

    class Role(models.TextChoices):
        """Readers look, editors change, owners also manage people and delete."""

        OWNER = "owner"
        EDITOR = "editor"
        READER = "reader"

    project = models.ForeignKey(Project, on_delete=models.CASCADE)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    role = models.CharField(max_length=10, choices=Role.choices)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "user"], name="one_role_per_person")]


class Variant(models.Model):
    """One version of the plant inside a project."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="variants")
    name = models.CharField(max_length=120, default="Base")
    created = models.DateTimeField(auto_now_add=True)
    archived = models.BooleanField(default=False)
    #: Set by "delete"; an editor can bring the variant back.
    deleted = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"{self.project} / {self.name}"


class ShareLink(models.Model):
    """Lets whoever holds the link read one variant without an account, until it is withdrawn."""

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="share_links")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)
    withdrawn = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return f"link to {self.variant}"


class Invitation(models.Model):
    """A seat in a project kept for a mail address or for whoever has a user name, until they take it."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="invitations")
    #: A mail address in small letters, or a user name; whether anybody has it is not looked at.
    guest = models.CharField(max_length=254)
    role = models.CharField(max_length=10, choices=Membership.Role.choices)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)
    accepted = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "guest"], name="one_invitation_per_guest")]

    def __str__(self) -> str:
        return f"{self.guest} into {self.project}"


class Kit(models.Model):
    """A piece of plant that a project keeps under its name, as plain data of the core."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="kits")
    name = models.CharField(max_length=60)
    piece = models.JSONField()
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "name"], name="one_kit_per_name")]

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One state of a variant's document with the edit that led to it; never changed, never deleted.

    ``edit`` and ``inverse`` are editing operations of the core. ``undoes`` names the revision that this one takes back (an undo), ``redoes``
    the undo that it takes back again.
    """

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    document = models.JSONField()
    edit = models.JSONField(null=True)
    inverse = models.JSONField(null=True)
    label = models.CharField(max_length=400, default="")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)
    undoes = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="undone_by")
    redoes = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="redone_by")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["variant", "number"], name="one_revision_per_number")]
        ordering = ["number"]


class StudyAnswer(models.Model):
    """A study of a variant that was asked: how far it has come, and what the core gave, to which question, by its key, it belongs."""

    class State(models.TextChoices):
        """A study that is running goes on when the server has come up again; a paused one waits for somebody; the others are over."""

        RUNNING = "running"
        PAUSED = "paused"
        STOPPED = "stopped"
        FAILED = "failed"
        DONE = "done"

    variant = models.ForeignKey(Variant, on_delete=models.CASCADE, related_name="study_answers")
    name = models.CharField(max_length=60)
    key = models.CharField(max_length=64)
    #: The revision of which it was asked.
    revision = models.PositiveIntegerField()
    state = models.CharField(max_length=8, choices=State, default=State.DONE)
    #: Why it failed.
    text = models.TextField(default="", blank=True)
    #: All of the answer, once it is done; its parts until then.
    answer = models.JSONField(null=True)
    #: Cases in all, where that is known before; those that are calculated, and those of them without an answer.
    planned = models.PositiveIntegerField(null=True)
    cases = models.PositiveIntegerField(default=0)
    failed = models.PositiveIntegerField(default=0)
    seconds = models.FloatField(default=0.0)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["variant", "name", "-id"], name="newest_answer")]

    def __str__(self) -> str:
        return f"{self.name} of {self.variant}"


class StudyPart(models.Model):
    """A part of a study under way that is calculated: what the core gave, by its number."""

    answer = models.ForeignKey(StudyAnswer, on_delete=models.CASCADE, related_name="parts")
    number = models.PositiveIntegerField()
    data = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["answer", "number"], name="one_part_a_number")]

    def __str__(self) -> str:
        return f"part {self.number} of {self.answer}"
