"""Tables from outside: what is read of a feed, what is named as left out, and files that mean harm."""

import io
import zipfile

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook
from plants import demo

from wattaxis.exchange import TableError, feed_from_table, read_table


def workbook(rows):
    book = Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


CASES = [
    (b"component;flow, kmol/h\nwater;1,5\n7732-18-5;9\n", "mole_flow", {"water": 1.5}, ["appears twice"]),
    (b"component,kg/h\nMEK,12\nwater,3\nunobtainium,4\n", "mass_flow", {"butanone": 12, "water": 3}, ["unobtainium is not one"]),
    (b"water\t0.25\nbutanone\t75 %\n", "mole_fraction", {"water": 0.25, "butanone": 75}, []),
    (b"name,mass fraction\nwater,0.2\nhydrogen,0\n", "mass_fraction", {"water": 0.2, "hydrogen": 0}, []),
    (b"water,3 kmol/h\nbutanone,lots\n", "mole_flow", {"water": 3}, ["Line 2, butanone"]),
    (workbook([["Component", "Flow (t/h)"], ["2-butanol", 4], ["water", 0.5], [None, None]]), "mass_flow", {"2-butanol": 4, "water": 0.5}, []),
]


@pytest.mark.parametrize(("content", "basis", "values", "left_out"), CASES)
def test_a_feed_from_a_table(content, basis, values, left_out):
    found = feed_from_table(read_table(content), demo())
    assert found.composition.basis == basis
    assert {key: quantity.value for key, quantity in found.composition.values.items()} == values
    assert len(found.left_out) == len(left_out)
    assert all(part in line for part, line in zip(left_out, found.left_out, strict=True))


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"name,kmol/h\nargon,3\n", "No line has both a component"),
        (b"water,3 kmol/h\nbutanone,3 kg/h\n", "mix mass flows and mole flows"),
        (b"water,-3 kmol/h\n", "No line"),
        (b"water,nan\n", "No line"),
        (b"\n\n\n", "empty"),
    ],
)
def test_a_table_that_is_no_feed_says_why(content, says):
    with pytest.raises(TableError, match=says):
        feed_from_table(read_table(content), demo())


def bomb():
    """A small archive that unpacks to 200 MB."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 200_000_000)
    return out.getvalue()


def entities():
    """A workbook whose text is an entity that grows a thousand million times."""
    bad = '<?xml version="1.0"?><!DOCTYPE a [<!ENTITY a "ha">' + "".join(f'<!ENTITY {chr(98 + k)} "{f"&{chr(97 + k)};" * 10}">' for k in range(9))
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(workbook([["water", 1]]))) as good, zipfile.ZipFile(out, "w") as archive:
        for name in good.namelist():
            archive.writestr(name, bad + "]><a>&j;</a>" if name.endswith("workbook.xml") else good.read(name))
    return out.getvalue()


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "empty"),
        (b"\x00\x01\x02", "neither a CSV"),
        (b"PK\x03\x04junk", "cannot be read"),
        (b"a" * 4_000_001, "larger than 4 MB"),
        (b"a,b\n" * 20_001, "at most 20000 rows"),
        (b"," * 300, "200 columns"),
        (b"a" * 2000 + b",1\n", "1000 characters"),
        (b'"unclosed', "No line"),
        (bomb(), "too large when unpacked"),
        (entities(), "cannot be read"),
    ],
    ids=["empty", "binary", "broken", "large", "rows", "columns", "cell", "quote", "bomb", "entities"],
)
def test_files_that_mean_harm_are_refused_in_words(content, says):
    with pytest.raises(TableError, match=says):
        feed_from_table(read_table(content), demo())


def test_a_formula_in_a_workbook_is_never_evaluated():
    assert read_table(workbook([["water", "=1+1"]])) == [["water"]]


@settings(max_examples=200, deadline=None)
@given(st.binary(max_size=300))
def test_any_bytes_give_a_table_or_a_sentence(content):
    try:
        feed_from_table(read_table(content), demo())
    except TableError as error:
        assert str(error).endswith((".", ")"))
