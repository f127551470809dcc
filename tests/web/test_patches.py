"""Only what changed travels, and it makes exactly the new state: checked with an independent reader of JSON Patch."""

import json
from copy import deepcopy

import jsonpatch
import pytest
from hypothesis import given
from hypothesis import strategies as st
from mazes import maze
from plants import q
from runs.events import Broadcaster, Event, Hearing
from runs.patches import patch

from wattaxis.flowsheet.document import to_data

plain = st.recursive(
    st.one_of(st.integers(2, 5), st.text("ab/~", max_size=2), st.booleans(), st.none()),
    lambda inner: st.one_of(
        st.lists(inner, max_size=5),
        st.dictionaries(st.text("ab/~", min_size=1, max_size=2), inner, max_size=4),
        st.lists(st.builds(lambda tag, value: {"tag": tag, "x": value}, st.sampled_from("ABCDE"), inner), max_size=6),
    ),
    max_leaves=25,
)


@given(plain, plain)
def test_a_patch_leads_from_any_value_to_any_other(before, after):
    kept = deepcopy(before)
    steps = patch(before, after)
    assert jsonpatch.apply_patch({"": before}, [{**s, "path": "/" + s["path"]} for s in steps]) == {"": after}
    assert before == kept
    assert bool(steps) == (before != after)


@given(st.lists(st.sampled_from("ABCDEFGH"), unique=True), st.lists(st.sampled_from("ABCDEFGH"), unique=True), st.data())
def test_rows_that_stay_do_not_travel(before, after, data):
    """Whatever was added, taken out or changed: a row that is as it was is in no step, unless the order is another."""
    old = {tag: {"tag": tag, "x": 0} for tag in before}
    new = {tag: {"tag": tag, "x": data.draw(st.integers(0, 1))} for tag in after}
    steps = patch(list(old.values()), list(new.values()))
    assert jsonpatch.apply_patch(list(old.values()), steps) == list(new.values())
    stays = [tag for tag in before if tag in new]
    if stays == [tag for tag in after if tag in old]:
        assert len(steps) == len(set(before) ^ set(after)) + sum(new[tag]["x"] for tag in stays)


def test_a_page_can_follow_the_results_by_what_is_new_in_them():
    hearing, page = Hearing(Broadcaster().differences), None
    streams = {f"S-{k}": {"flow": float(k), "fractions": [0.5, 0.5]} for k in range(200)}
    for revision in range(1, 6):
        streams = {**streams, f"S-{revision}": {"flow": 100.0 + revision, "fractions": [0.1 * revision, 0.9]}}
        result = {"complete": True, "streams": streams}
        event = Event({"kind": "result", "revision": revision, "result": result})
        told = json.loads(hearing.line(event)[len(b"data: ") :])
        page = told["result"] if revision == 1 else jsonpatch.apply_patch(page, told["patch"])
        assert page == result
        assert (told.get("since"), "result" in told) == ((None, True) if revision == 1 else (revision - 1, False))
        assert revision == 1 or len(json.dumps(told)) < 300
        failed = Event({"kind": "failed", "revision": revision, "text": "No."})
        assert hearing.line(failed) == failed.line


@pytest.mark.django_db
def test_an_edit_of_a_large_plant_sends_little_back(people, client):
    """Three hundred units: moving, changing, removing and undoing send what they change."""
    from projects.service import create_project
    from runs.service import service

    plant = to_data(maze(300, 0, 1))
    variant = create_project("Large", people["olga"], plant)
    client.force_login(people["olga"])
    path = f"/api/variants/{variant.id}"
    page = {k: v for k, v in client.get(path).json().items() if k in ("document", "shapes")}
    heater = next(u["tag"] for u in plant["units"] if u["type"] == "heater")
    edits = [
        ("/edits", {"kind": "set_values", "unit": heater, "values": {"outlet_temperature": q("350 K")}}),
        ("/edits", {"kind": "rename", "tag": heater, "new": "E-999"}),
        ("/edits", {"kind": "remove_unit", "tag": "E-999"}),
        ("/undo", None),
        ("/redo", None),
        ("/back/1", None),
    ]
    for base, (way, edit) in enumerate(edits, 1):
        body = {"base": base, "edit": edit} if edit else None
        reply = client.post(f"{path}{way}?base={base}", body, content_type="application/json")
        assert reply.status_code == 200
        changed = reply.json()
        assert (changed["base"], changed["revision"]) == (base, base + 1)
        assert len(reply.content) < 3000
        page = jsonpatch.apply_patch(page, changed["patch"])
        assert {k: client.get(path).json()[k] for k in page} == page
    late = client.get(f"{path}/changes?base=2").json()
    assert late["base"] == 2
    assert client.get(f"{path}/changes?base=99").json()["patch"][0]["value"] == page
    service.forget(variant.id)


@pytest.mark.django_db
def test_what_was_read_of_a_revision_is_not_that_of_another_one_with_its_number(people):
    """A transaction that is taken back gives its numbers away again."""
    from django.db import transaction
    from projects.documents import documents
    from projects.service import create_project, latest

    def made(title):
        return latest(create_project(title, people["olga"], {**to_data(maze(3, 0, 1)), "title": title}))

    with transaction.atomic():
        first = made("First")
        transaction.set_rollback(True)
    second = made("Second")
    assert (second.id == first.id, documents.plant(second).title, first.document["title"]) == (True, "Second", "First")
