"""Whoever loses the right to read hears nothing more within a second: removed, signed out, link withdrawn, project gone, password changed."""

import asyncio
import json

import pytest
from asgiref.sync import async_to_sync, sync_to_async
from django.test import AsyncClient, Client

pytestmark = pytest.mark.django_db(transaction=True)


def remove(olga, variant, _listener):
    assert olga.delete(f"/api/projects/{variant.project_id}/members/rita").status_code == 200


def delete_project(olga, variant, _listener):
    assert olga.delete(f"/api/projects/{variant.project_id}").status_code == 200


def delete_variant(_olga, variant, _listener):
    from django.utils import timezone

    variant.deleted = timezone.now()
    variant.save()


def sign_out(_olga, _variant, listener):
    assert listener.delete("/api/session").status_code == 200


def change_password(_olga, _variant, listener):
    from django.contrib.auth.models import User

    rita = User.objects.get(username="rita")
    rita.set_password("another-long-word")
    rita.save()


def withdraw(olga, variant, _listener):
    from projects.models import ShareLink

    link = ShareLink.objects.get(variant=variant)
    assert olga.delete(f"/api/variants/{variant.id}/links/{link.id}").status_code == 200


def same_session(client):
    """A plain client with the cookies of an asynchronous one."""
    plain = Client()
    plain.cookies = client.cookies
    return plain


async def heard_after(listener, olga, variant, revoke):
    """What a stream says after a revocation, and whether it ends within a second."""
    from runs.events import Event
    from runs.service import service

    reply = await listener.get(f"/api/variants/{variant.id}/events")
    assert reply.status_code == 200
    chunks = reply.streaming_content
    await anext(chunks)
    service.events.publish(variant.id, Event({"kind": "revision", "revision": 8}))
    assert json.loads((await asyncio.wait_for(anext(chunks), 5)).decode().removeprefix("data: "))["revision"] == 8
    await sync_to_async(revoke)(olga, variant, same_session(listener))
    service.events.publish(variant.id, Event({"kind": "revision", "revision": 9}))
    heard = []
    try:
        while True:
            heard.append(await asyncio.wait_for(anext(chunks), 1.0))
    except StopAsyncIteration:
        return heard, True
    except TimeoutError:
        await chunks.aclose()
        return heard, False


@pytest.mark.parametrize("revoke", [remove, delete_project, delete_variant, sign_out, change_password])
def test_a_member_who_is_out_hears_nothing_more(as_, people, variant, revoke):
    olga = as_("olga").client

    async def run():
        listener = AsyncClient()
        await listener.aforce_login(people["rita"])
        return await heard_after(listener, olga, variant, revoke)

    heard, ended = async_to_sync(run)()
    assert ended
    assert not any(b"data:" in chunk for chunk in heard)


def test_a_guest_hears_nothing_more_when_the_link_is_withdrawn(as_, variant):
    olga = as_("olga").client
    address = olga.post(f"/api/variants/{variant.id}/links").json()["address"]
    token = address.rsplit("/", 1)[1]
    guest = Client()
    assert guest.post(f"/api/shared/{token}").status_code == 200

    async def run():
        listener = AsyncClient()
        listener.cookies = guest.cookies
        return await heard_after(listener, olga, variant, withdraw)

    heard, ended = async_to_sync(run)()
    assert ended
    assert not any(b"data:" in chunk for chunk in heard)


def test_whoever_still_may_goes_on_hearing(as_, people, variant):
    """Egon is untouched when rita is removed."""
    olga = as_("olga").client

    async def run():
        listener = AsyncClient()
        await listener.aforce_login(people["egon"])
        return await heard_after(listener, olga, variant, remove)

    heard, ended = async_to_sync(run)()
    assert not ended
    assert any(b'"revision": 9' in chunk for chunk in heard)
