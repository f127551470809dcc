"""Links that let others in: share links for reading one variant, and invitations by mail into a project."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from accounts.audit import record
from accounts.throttle import Allowance, SignInThrottle
from api import people_schemas, schemas
from api.access import SHARED, anyone, member, person, project_member, share_token, shared_variant
from api.people import accept_password
from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core import signing
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.core.validators import EmailValidator
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router
from ninja.errors import HttpError
from projects.models import Invitation, Membership, ShareLink

router = Router()
throttle = SignInThrottle()
invitations = Allowance("invitations", 30)
_SALT = "wattaxis.invitation"
DAYS = 14


# Share links --------------------------------------------------------------------------------------------------------------


@router.get("variants/{id:variant_id}/links", response=list[people_schemas.ShareOut])
def list_links(request: HttpRequest, variant_id: int) -> list[dict[str, Any]]:
    """The links that let others read this variant."""
    variant, _ = member(request, variant_id, "owner")
    return [_link(request, link) for link in variant.share_links.filter(withdrawn=None).select_related("author").order_by("-id")]


@router.post("variants/{id:variant_id}/links", response=people_schemas.ShareOut)
def make_link(request: HttpRequest, variant_id: int) -> dict[str, Any]:
    """A new link; whoever holds it can read the variant without an account."""
    variant, _ = member(request, variant_id, "owner")
    link = ShareLink.objects.create(variant=variant, author=person(request))
    record(request, "shared for reading", f"{variant} ({variant.id})")
    return _link(request, link)


@router.delete("variants/{id:variant_id}/links/{id:link_id}", response=schemas.Message)
def withdraw_link(request: HttpRequest, variant_id: int, link_id: int) -> dict[str, str]:
    """The link stops working at once."""
    variant, _ = member(request, variant_id, "owner")
    link = variant.share_links.filter(id=link_id, withdrawn=None).first()
    if link is None:
        raise HttpError(404, "There is no such link any more.")
    link.withdrawn = timezone.now()
    link.save()
    record(request, "withdrew a link", f"{variant} ({variant.id})")
    return {"message": "The link no longer works."}


def _link(request: HttpRequest, link: ShareLink) -> dict[str, Any]:
    address = request.build_absolute_uri(f"/shared/{share_token(link)}")
    return {"id": link.id, "address": address, "created": link.created, "author": link.author.get_username() if link.author else ""}


@router.post("shared/{token}", auth=anyone, response=people_schemas.SharedOut)
def open_link(request: HttpRequest, token: str) -> dict[str, int]:
    """Follow a share link: from now on this browser reads the variant."""
    _slow_down(request, "share")
    link = shared_variant(token)
    if link is None:
        throttle.failed(_who(request, "share"))
        raise HttpError(404, "This link does not work, or no longer. Ask whoever sent it for a new one.")
    request.session[SHARED] = link.id
    return {"variant": link.variant_id}


# Invitations --------------------------------------------------------------------------------------------------------------


@router.get("projects/{id:project_id}/invitations", response=list[people_schemas.InvitationOut])
def list_invitations(request: HttpRequest, project_id: int) -> list[dict[str, Any]]:
    """Invitations that nobody has followed yet."""
    project, _ = project_member(request, project_id, "owner")
    return [{"id": i.id, "guest": i.guest, "role": i.role} for i in project.invitations.filter(accepted=None).order_by("guest")]


@router.post("projects/{id:project_id}/invitations", response=list[people_schemas.InvitationOut])
def invite(request: HttpRequest, project_id: int, body: people_schemas.InvitationIn) -> list[dict[str, Any]]:
    """Invite by mail address, with a link that makes an account or uses the one that is there, or by user name. Again: with the new role.

    The answer is the same whether anybody has the address or the name.
    """
    project, _ = project_member(request, project_id, "owner")
    guest = _guest(body.guest)
    if not invitations.take(request.user.pk):
        raise HttpError(429, f"You have sent {invitations.most} invitations within the hour. Go on later.")
    values = {"role": body.role, "author": person(request), "accepted": None, "created": timezone.now()}
    invitation, _ = Invitation.objects.update_or_create(project=project, guest=guest, defaults=values)
    if "@" in guest:
        _mail(request, invitation)
    record(request, f"invited as {body.role}", f"{guest} into {project.name} ({project.id})")
    return list_invitations(request, project_id)


def _guest(text: str) -> str:
    """A mail address in small letters, or a user name."""
    guest = text.strip()
    try:
        if "@" not in guest:
            UnicodeUsernameValidator()(guest)
        else:
            guest = guest.lower()
            EmailValidator()(guest)
    except ValidationError as error:
        raise HttpError(422, f"{text[:100]!r} is neither a mail address nor a user name.") from error
    if len(guest) > 254:
        raise HttpError(422, "A mail address or user name has at most 254 characters.")
    return guest


def _mail(request: HttpRequest, invitation: Invitation) -> None:
    link = request.build_absolute_uri(f"/invited/{_token(invitation)}")
    project = " ".join(invitation.project.name.split())
    name = request.user.get_username()
    text = f"{name} invites you to the Wattaxis project {project} as {invitation.role}.\nThis link lets you in, for {DAYS} days:\n\n{link}\n"
    send_mail(f"Invitation to {project}", text, None, [invitation.guest])


def _token(invitation: Invitation) -> str:
    return signing.dumps([invitation.id, invitation.role], salt=_SALT)


@router.delete("projects/{id:project_id}/invitations/{id:invitation_id}", response=list[people_schemas.InvitationOut])
def take_back_invitation(request: HttpRequest, project_id: int, invitation_id: int) -> list[dict[str, Any]]:
    """The link in the mail stops working."""
    project, _ = project_member(request, project_id, "owner")
    gone, _ = project.invitations.filter(id=invitation_id, accepted=None).delete()
    if not gone:
        raise HttpError(404, "There is no such invitation.")
    record(request, "took back an invitation", f"{project.name} ({project.id})")
    return list_invitations(request, project_id)


@router.get("invitations", response=list[people_schemas.InvitedOut])
def my_invitations(request: HttpRequest) -> list[dict[str, str]]:
    """What the person who is signed in is invited to, by user name or mail address."""
    user, since = person(request), timezone.now() - timedelta(days=DAYS)
    mine = [user.get_username(), *([user.email.lower()] if user.email else [])]
    open_ones = Invitation.objects.filter(guest__in=mine, accepted=None, created__gt=since, project__deleted=None)
    return [_invited(i) for i in open_ones.select_related("project", "author").order_by("id")]


def _invited(invitation: Invitation) -> dict[str, str]:
    author = invitation.author.get_username() if invitation.author else ""
    about = {"project": invitation.project.name, "role": invitation.role, "guest": invitation.guest, "author": author}
    return {**about, "token": _token(invitation)}


@router.delete("invitations/{token}", response=schemas.Message)
def decline_invitation(request: HttpRequest, token: str) -> dict[str, str]:
    """The invitation goes away."""
    invitation = _invitation(request, token)
    invitation.delete()
    record(request, "declined an invitation", f"{invitation.project.name} ({invitation.project_id})")
    return {"message": "The invitation is declined."}


@router.get("invitations/{token}", auth=None, response=people_schemas.InvitedOut)
def look_at_invitation(request: HttpRequest, token: str) -> dict[str, str]:
    """What the holder of a link is invited to."""
    return _invited(_invitation(request, token))


@router.post("invitations/{token}", auth=anyone, response=schemas.Message)
def accept_invitation(request: HttpRequest, token: str, body: people_schemas.Acceptance) -> dict[str, str]:
    """Join with the account that is signed in, or with a new one of the given name and password."""
    invitation = _invitation(request, token)
    try:
        with transaction.atomic():
            user = request.user if request.user.is_authenticated else _new_person(invitation.guest if "@" in invitation.guest else "", body)
            _join(invitation, user)
    except IntegrityError as error:
        raise HttpError(422, f"The name {body.username.strip()[:150]!r} is taken. Choose another, or sign in with it first.") from error
    if not request.user.is_authenticated:
        login(request, user, backend=settings.AUTHENTICATION_BACKENDS[0])
    record(request, f"joined as {invitation.role}", f"{invitation.project.name} ({invitation.project_id})")
    return {"message": f"You are in {invitation.project.name}."}


def _join(invitation: Invitation, user: Any) -> None:
    membership, new = Membership.objects.get_or_create(project=invitation.project, user=user, defaults={"role": invitation.role})
    if not new and membership.role == Membership.Role.READER:
        membership.role = invitation.role
        membership.save()
    invitation.accepted = timezone.now()
    invitation.save()


def _new_person(mail: str, body: people_schemas.Acceptance) -> Any:
    name = body.username.strip()
    try:
        UnicodeUsernameValidator()(name)
    except ValidationError as error:
        raise HttpError(422, "A name is made of letters, digits and @ . + - _") from error
    if not 1 <= len(name) <= 150:
        raise HttpError(422, "A name has at most 150 characters.")
    people = get_user_model()
    accept_password(body.password, people(username=name, email=mail))
    return people.objects.create_user(name, mail, body.password)


def _invitation(request: HttpRequest, token: str) -> Invitation:
    _slow_down(request, "invitation")
    try:
        number, role = signing.loads(token, salt=_SALT, max_age=DAYS * 86400)
        found = Invitation.objects.select_related("project", "author").filter(id=number, role=role, accepted=None, project__deleted=None).first()
    except (signing.BadSignature, ValueError):
        found = None
    if found is None:
        throttle.failed(_who(request, "invitation"))
        raise HttpError(404, "This invitation is used up, too old or taken back. Ask for a new one.")
    return found


def _who(request: HttpRequest, what: str) -> str:
    return f"{what}|{request.META.get('REMOTE_ADDR', '')}"


def _slow_down(request: HttpRequest, what: str) -> None:
    if throttle.wait(_who(request, what)) > 0:
        raise HttpError(429, "Too many failed attempts. Try again in a few minutes.")
