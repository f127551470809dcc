"""Files made to hurt: read in a process of their own with limits, while the server goes on; names, headers, compression."""

import io
import threading
import time
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from openpyxl import Workbook
from runs.reading import Readers

pytestmark = pytest.mark.django_db(transaction=True)


def bomb(rows):
    """A small workbook that becomes large when it is unpacked."""
    book = Workbook()
    book.active.append(["component", "kmol/h"])
    plain = io.BytesIO()
    book.save(plain)
    row = '<row><c t="inlineStr"><is><t>water</t></is></c><c><v>1</v></c></row>'
    sheet = f'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>{row * rows}</sheetData></worksheet>'
    packed = io.BytesIO()
    with zipfile.ZipFile(plain) as old, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as new:
        for item in old.infolist():
            new.writestr(item, sheet if item.filename.startswith("xl/worksheets/") else old.read(item))
    return packed.getvalue()


def upload(person, path, name, content):
    return person.client.post(path, {"file": SimpleUploadedFile(name, content)})


def test_a_file_that_takes_too_long_is_given_up_and_others_are_served_meanwhile(as_, variant, settings):
    settings.READ_SECONDS = 1.0
    olga, egon, answers = as_("olga"), as_("egon"), []
    path = f"/api/variants/{variant.id}/feed-table"
    content = bomb(400_000)
    assert len(content) < 1_000_000
    reading = threading.Thread(target=lambda: answers.append(upload(olga, path, "feed.xlsx", content)))
    reading.start()
    slowest = 0.0
    while reading.is_alive():
        begun = time.monotonic()
        assert egon.client.get("/api/session").status_code == 200
        slowest = max(slowest, time.monotonic() - begun)
        time.sleep(0.05)
    (reply,) = answers
    assert reply.status_code == 422
    message = reply.json()["message"]
    assert "given up" in message or "too large" in message or "at most" in message
    assert slowest < 2.0


def test_files_are_read_as_before(as_, variant):
    olga = as_("olga")
    path = f"/api/variants/{variant.id}/feed-table"
    reply = upload(olga, path, "feed.csv", b"component;kmol/h\n2-butanol;12,5\n")
    assert reply.status_code == 200, reply.json()
    table = reply.json()
    assert table["composition"]["values"]["2-butanol"]["value"] == 12.5
    assert upload(olga, path, "feed.csv", b"").status_code == 422


def test_so_many_files_are_read_at_once_and_others_are_told_to_wait(settings):
    settings.READ_SECONDS = 0.2
    readers = Readers(at_once=1)
    assert readers._turns.acquire()
    assert "Try again" in readers.read(b"", kind="document")["text"]
    readers._turns.release()
    readers.stop()


def test_a_reader_that_dies_is_told_and_the_next_one_reads(monkeypatch, settings):
    settings.READ_MEGABYTES = 1
    readers = Readers()
    assert "text" in readers.read(b"[" * 4_000_000, kind="document")
    settings.READ_MEGABYTES = 600
    readers.stop()
    assert "not valid JSON" in readers.read(b"[1,", kind="document")["text"]
    readers.stop()


@pytest.mark.parametrize("name", ["a\nBcc: x@y.invalid", "a\rb", "a\0b", "a\u2028b", "a\x1bb"])
def test_names_of_several_lines_or_with_control_characters_are_refused(as_, name):
    reply = as_("olga").client.post("/api/projects", {"name": name}, content_type="application/json")
    assert reply.status_code == 422
    assert ("cannot be written" if "\0" in name else "one line") in reply.json()["message"]


def test_bodies_have_a_size(as_):
    olga = as_("olga")
    edit = {"kind": "add_note", "note": {"text": "x" * 2_000_000}}
    for path in ("/edits", "/fit", "/balance"):
        reply = olga.client.post(olga.path + path, {"base": 1, "edit": edit}, content_type="application/json")
        assert (reply.status_code, "as a file" in reply.json()["message"]) == (413, True)


@pytest.mark.parametrize("text", ['"\\ud800"', '"a\\u0000b"', '{"\\udfff": 1}', "[" * 100_000])
def test_no_route_reads_a_body_whose_texts_cannot_be_written_or_that_is_nested_without_end(as_, text):
    olga = as_("olga")
    for path in ("/compression", "/edits", "/fit", "/balance"):
        reply = olga.client.post(olga.path + path, f'{{"stream": {text}}}', content_type="application/json")
        assert reply.status_code in (400, 422)
        assert "message" in reply.json()


def test_invitations_have_a_limit_of_their_own(as_, variant, mailoutbox):
    olga = as_("olga").client
    path = f"/api/projects/{variant.project_id}/invitations"
    codes = [olga.post(path, {"guest": f"p{k}@b.invalid", "role": "reader"}, content_type="application/json").status_code for k in range(32)]
    assert codes == [200] * 30 + [429] * 2
    assert len(mailoutbox) == 30


def test_private_answers_are_not_kept_and_large_ones_are_compressed(as_, variant):
    olga = as_("olga").client
    reply = olga.get(f"/api/variants/{variant.id}", headers={"Accept-Encoding": "gzip"})
    assert reply.headers["Cache-Control"] == "no-store"
    assert reply.headers["Content-Encoding"] == "gzip"
    assert "geolocation=()" in reply.headers["Permissions-Policy"]
    assert "Cache-Control" not in olga.get("/").headers or "no-store" not in olga.get("/").headers["Cache-Control"]
