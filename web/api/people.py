"""People and projects: passwords, members and their roles, archiving, deleting with a way back."""

from __future__ import annotations

from typing import Any

from accounts.audit import record
from accounts.backends import attempts
from accounts.throttle import SignInThrottle
from api import people_schemas, schemas
from api.access import anyone, person, project_member
from api.variants import title
from django.contrib.auth import get_user_model, update_session_auth_hash
from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.core.mail import send_mail
from django.http import HttpRequest
from django.utils import timezone
from django.utils.encoding import force_bytes, force_str
from django.utils.http import urlsafe_base64_decode, urlsafe_base64_encode
from ninja import Router
from ninja.errors import HttpError
from projects.models import Membership, Project

router = Router()
throttle = SignInThrottle()


def accept_password(password: str, user: Any) -> None:
    """Refuse a password that is easily guessed, with the reason."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise HttpError(422, " ".join(error.messages)) from error


def check_password(request: HttpRequest, password: str, refused: str) -> None:
    """Ask for the password before something that matters; wrong ones are counted and go on record as ``refused``."""
    user = person(request)
    if attempts.wait(request, user.get_username()) > 0:
        raise HttpError(429, "Too many failed attempts. Try again in a few minutes.")
    if not user.check_password(password):
        attempts.failed(request, user.get_username())
        record(request, refused)
        raise HttpError(422, "The current password is incorrect.")


def tell_owner(user: User, what: str) -> None:
    """Mail the owner of an account what was changed of it, so that nobody else changes it unseen."""
    if user.email:
        text = f"{what} of the Wattaxis account {user.get_username()}.\nIf it was not you, ask for a new password on the page where you sign in.\n"
        send_mail("Your Wattaxis account", text, None, [user.email])


@router.post("password", response=schemas.Message)
def change_password(request: HttpRequest, body: people_schemas.PasswordChange) -> dict[str, str]:
    """Change one's own password; the session goes on."""
    user = person(request)
    check_password(request, body.old, "change of password refused")
    accept_password(body.new, user)
    user.set_password(body.new)
    user.save()
    update_session_auth_hash(request, user)
    record(request, "changed password")
    tell_owner(user, "The password was changed")
    return {"message": "The password is changed."}


@router.post("password/forgotten", auth=anyone, response=schemas.Message)
def forgot_password(request: HttpRequest, body: people_schemas.PasswordForgotten) -> dict[str, str]:
    """Send a link by mail; the answer is the same whether the person exists or not."""
    who = f"forgotten|{request.META.get('REMOTE_ADDR', '')}"
    if throttle.wait(who) > 0:
        raise HttpError(429, "Too many requests. Try again in a few minutes.")
    throttle.failed(who)
    user = get_user_model().objects.filter(username=body.username[:150], is_active=True).first()
    if user is not None and user.email:
        key = urlsafe_base64_encode(force_bytes(user.pk))
        link = request.build_absolute_uri(f"/reset/{key}/{default_token_generator.make_token(user)}")
        text = f"Somebody asked for a new Wattaxis password for {user.get_username()}.\nThis link sets it, once:\n\n{link}\n"
        send_mail("A new Wattaxis password", text, None, [user.email])
        record(request, "asked for a new password", user.get_username())
    return {"message": "If this person is known, a mail with a link is on its way."}


@router.post("password/reset", auth=anyone, response=schemas.Message)
def reset_password(request: HttpRequest, body: people_schemas.PasswordReset) -> dict[str, str]:
    """Set a password by the link from the mail."""
    try:
        user = get_user_model().objects.get(pk=force_str(urlsafe_base64_decode(body.person)))
    except (ValueError, OverflowError, get_user_model().DoesNotExist):
        user = None
    if user is None or not default_token_generator.check_token(user, body.token):
        raise HttpError(422, "This link is used up or too old. Ask for a new one.")
    accept_password(body.password, user)
    user.set_password(body.password)
    user.save()
    attempts.succeeded(request, user.get_username())
    record(request, "reset password", user.get_username())
    tell_owner(user, "The password was set anew by a link from a mail")
    return {"message": "The password is set. Sign in with it."}


@router.patch("projects/{id:project_id}", response=schemas.Message)
def change_project(request: HttpRequest, project_id: int, body: schemas.NameAndPlace) -> dict[str, str]:
    """Rename, archive or take out of the archive."""
    project, _ = project_member(request, project_id, "owner")
    if body.name is not None:
        project.name = title(body.name, "project")
    if body.archived is not None:
        project.archived = body.archived
    project.save()
    return {"message": f"{project.name} is {'archived' if project.archived else 'kept'}."}


@router.delete("projects/{id:project_id}", response=schemas.Message)
def delete_project(request: HttpRequest, project_id: int) -> dict[str, str]:
    """Delete; :func:`restore_project` brings it back."""
    project, _ = project_member(request, project_id, "owner")
    project.deleted = timezone.now()
    project.save()
    record(request, "deleted project", f"{project.name} ({project.id})")
    return {"message": f"{project.name} is deleted."}


@router.post("projects/{id:project_id}/restore", response=schemas.Message)
def restore_project(request: HttpRequest, project_id: int) -> dict[str, str]:
    """Undo a deletion."""
    project, _ = project_member(request, project_id, "owner", deleted=True)
    project.deleted = None
    project.save()
    record(request, "restored project", f"{project.name} ({project.id})")
    return {"message": f"{project.name} is back."}


@router.get("projects/{id:project_id}/members", response=list[people_schemas.MemberOut])
def list_members(request: HttpRequest, project_id: int) -> list[dict[str, str]]:
    """The people of a project."""
    project, _ = project_member(request, project_id)
    rows = Membership.objects.filter(project=project).select_related("user").order_by("user__username")
    return [{"username": m.user.get_username(), "role": m.role} for m in rows]


@router.put("projects/{id:project_id}/members", response=list[people_schemas.MemberOut])
def set_member(request: HttpRequest, project_id: int, body: people_schemas.MemberIn) -> Any:
    """Change the role of a member; others are invited."""
    project, _ = project_member(request, project_id, "owner")
    membership = _membership(project, body.username)
    user = membership.user
    if body.role != "owner":
        _keep_an_owner(project, user)
    membership.role = body.role
    membership.save()
    record(request, f"made {body.role}", f"{user.get_username()} in {project.name} ({project.id})")
    return list_members(request, project_id)


@router.delete("projects/{id:project_id}/members/{username}", response=schemas.Message)
def remove_member(request: HttpRequest, project_id: int, username: str) -> dict[str, str]:
    """Take a person out; anybody may take themselves out."""
    project, _ = project_member(request, project_id, "reader" if username == request.user.get_username() else "owner")
    membership = _membership(project, username)
    _keep_an_owner(project, membership.user)
    membership.delete()
    record(request, "removed", f"{username} from {project.name} ({project.id})")
    return {"message": f"{username} is no longer in {project.name}."}


def _membership(project: Project, username: str) -> Membership:
    membership = Membership.objects.filter(project=project, user__username=username[:150]).select_related("user").first()
    if membership is None:
        raise HttpError(404, f"{username[:150]} is not in this project.")
    return membership


def _keep_an_owner(project: Project, leaving: Any) -> None:
    others = Membership.objects.filter(project=project, role=Membership.Role.OWNER).exclude(user=leaving)
    mine = Membership.objects.filter(project=project, role=Membership.Role.OWNER, user=leaving)
    if mine.exists() and not others.exists():
        raise HttpError(422, "A project needs an owner: make somebody else one first.")
