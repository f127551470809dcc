"""Measured data and fits over HTTP: files read with care, fits by a solver process, each for those who may."""

import math

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from wattaxis import PropertyModel

pytestmark = pytest.mark.django_db(transaction=True)
MEANT = {"kind": "vapour-liquid", "components": ["butanone", "water"], "name": "Run 1"}


def upload(person, content, name="run.csv", **change):
    return person.client.post(person.path + "/data-file", {"file": SimpleUploadedFile(name, content), **MEANT, **change})


def table():
    model = PropertyModel("margules", ["butanone", "water"], {("butanone", "water"): {"a12": 1.5, "a21": 1.1}})
    rows = ["T/degC;P/kPa;x1"]
    for x in (0.1, 0.3, 0.5, 0.7, 0.9):
        rows.append(f"60;{model.flash([x, 1 - x], T=333.15, VF=0.0).pressure / 1000:.4f};{x}")
    return "\n".join(rows).encode()


def test_a_file_becomes_a_set_and_the_set_a_fit(as_, variant):
    from runs.service import service

    egon = as_("egon")
    read = upload(egon, table()).json()
    assert (read["left_out"], read["doubts"]) == ([], [])
    data = read["data"][0]
    assert len(data["rows"]) == 5
    assert egon.edit(1, "set_data", name="Run 1", data=data).status_code == 200
    free = [{"first": "butanone", "second": "water", "name": name} for name in ("a12", "a21")]
    fit = {"model": "margules", "data": ["Run 1"], "free": free}
    try:
        reply = egon.client.post(egon.path + "/fit", {"fit": fit}, content_type="application/json")
        assert reply.status_code == 200, reply.json()
        assert reply.json()["values"] == pytest.approx([1.5, 1.1], rel=1e-3)
        refused = egon.client.post(egon.path + "/fit", {"fit": {**fit, "data": ["Run 2"]}}, content_type="application/json")
        assert (refused.status_code, "Run 2" in refused.json()["message"]) == (422, True)
        assert egon.client.post(egon.path + "/fit", {"fit": {}}, content_type="application/json").status_code == 422
    finally:
        service.stop()
    assert as_("rita").client.post(egon.path + "/fit", {"fit": fit}, content_type="application/json").status_code == 403


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"T;P\n1;2", "column x1"),
        (b"<html/>", "DataReport"),
        (b"PK\x03\x04 broken", "workbook"),
        (b"x" * 9_000_000, "larger"),
    ],
)
def test_files_that_are_no_data_are_refused_in_words(as_, variant, content, words):
    reply = upload(as_("egon"), content)
    assert reply.status_code == 422
    assert words in reply.json()["message"]
    assert upload(as_("rita"), content).status_code in (403, 422)
    assert upload(as_("nemo"), table()).status_code == 404


def check(person, data, **more):
    return person.client.post(person.path + "/data-check", {"name": data["name"], "data": data, **more}, content_type="application/json")


def test_slips_are_told_before_a_set_is_kept(as_, variant):
    egon = as_("egon")
    data = upload(egon, table()).json()["data"][0]
    assert check(egon, data).json()["doubts"] == []
    columns = [{**c, "unit": "bar"} if c["key"] == "P" else c for c in data["columns"]]
    assert "5 points" in check(egon, {**data, "columns": columns}).json()["doubts"][0]
    assert "Run 1: 5 points" in upload(egon, table().replace(b"P/kPa", b"P/bar")).json()["doubts"][0]
    pasted = check(egon, {**data, "rows": []}, cells=[["x1", "P/mmHg"], ["0.5", "what"]]).json()
    assert pasted["data"]["rows"] == [[None, None, 0.5]]
    assert pasted["unread"] == [{"row": 0, "column": 1, "text": "what"}]
    refused = check(egon, data, cells=[["colour"], ["red"]])
    assert (refused.status_code, "colour" in refused.json()["message"]) == (422, True)
    assert check(as_("rita"), data).status_code == 403
    strange = [upload(egon, table(), components=["unobtainium", "water"]), check(egon, {**data, "components": ["unobtainium", "water"]})]
    assert [(reply.status_code, "unobtainium is not among" in reply.json()["message"]) for reply in strange] == [(422, True)] * 2


def test_rates_are_fitted_over_http_to_a_file_of_more_than_two_components(as_, variant):
    from runs.service import service

    egon = as_("egon")
    law = {"orders": {"2-butanol": 1}, "value": 1, "unit": "1/s"}
    made = {"name": "R1", "numbers": {"2-butanol": -1, "butanone": 1, "hydrogen": 1}, "phase": "vapour", "forward": law}
    assert egon.edit(1, "set_reactions", name="Main", reactions={"name": "Main", "reactions": [made]}).status_code == 200
    rows = [
        f"400;{t};{10 * math.exp(-0.02 * t):.5f};{10 - 10 * math.exp(-0.02 * t):.5f};{10 - 10 * math.exp(-0.02 * t):.5f}" for t in (0, 20, 50, 100)
    ]
    content = "\n".join(["T/degC;t/s;c1, mol/m3;c2, mol/m3;c3, mol/m3", *rows]).encode()
    read = upload(egon, content, kind="batch", components=["2-butanol", "butanone", "hydrogen"]).json()
    assert read["left_out"] == []
    assert [c["key"] for c in read["data"][0]["columns"]] == ["T", "t", "c1", "c2", "c3"]
    assert egon.edit(2, "set_data", name="Run 1", data=read["data"][0]).status_code == 200
    fit = {"reactions": "Main", "data": ["Run 1"], "free": [{"reaction": "R1"}]}
    try:
        found = egon.client.post(egon.path + "/fit", {"fit": fit}, content_type="application/json").json()
        assert found["shown"][0]["value"] == pytest.approx(0.02, rel=1e-3)
        kept = {
            **{key: found[key] for key in ("values", "half_widths", "sum_of_squares", "deviations", "quality")},
            **{"name": "Fit 1", "model": "rate-laws", "reactions": "Main", "data": ["Run 1"], "free": [{"reaction": "R1", "holds_at": None}]},
        }
        assert egon.edit(3, "set_fit", name="Fit 1", fit=kept).status_code == 200
        assert egon.edit(4, "set_reaction", of="Main", name="R1", reaction=found["reactions"][0]).status_code == 200
        wrong = egon.client.post(egon.path + "/fit", {"fit": {**fit, "free": [{"reaction": "R2"}]}}, content_type="application/json")
        assert (wrong.status_code, "There is no reaction R2" in wrong.json()["message"]) == (422, True)
    finally:
        service.stop()
