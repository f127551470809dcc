"""Hostile input made four times as large may cost about four times as much, wherever text from outside is read."""

import time

import pytest

from wattaxis import parse
from wattaxis.exchange import TableError, read_table
from wattaxis.exchange.thermoml import data_from_thermoml
from wattaxis.flowsheet import DocumentError, load
from wattaxis.flowsheet.edits import EditError, edit_from_json
from wattaxis.flowsheet.formula import FormulaError, parse_formula
from wattaxis.quantities import QuantityError
from wattaxis.reactions.expression import symbols_in

HEAD = '{"format": "wattaxis-flowsheet", "version": 13, "title": '
READERS = {
    "document": load,
    "table": lambda text: read_table(text.encode()),
    "ThermoML": lambda text: data_from_thermoml(text.encode(), []),
    "formula": parse_formula,
    "rate law": symbols_in,
    "quantity": lambda text: parse(text, "pressure"),
    "edit": lambda text: edit_from_json({"kind": "set_title", "title": text}),
}
REPEATED = {
    "quotes": '"',
    "backslashes": '\\"',
    "openings": "[",
    "objects": '{"a":',
    "brackets": "(",
    "digits": "9",
    "signs": "1-",
    "powers": "2^",
    "separators": ";,\t",
    "lines": '"\n',
    "tags": "<a>",
    "entities": "&lt;",
    "blanks": " ",
}
REFUSALS = (DocumentError, TableError, FormulaError, QuantityError, EditError, ValueError)


def cost(read, text):
    """CPU s of the quickest of three readings; each is an answer or a sentence."""
    times = []
    for _ in range(3):
        begun = time.process_time()
        try:
            read(text)
        except REFUSALS as error:
            assert str(error)
        times.append(time.process_time() - begun)
    return min(times)


@pytest.mark.parametrize("repeated", REPEATED)
@pytest.mark.parametrize("reader", READERS)
def test_reading_costs_no_more_than_its_length(reader, repeated):
    read, piece = READERS[reader], REPEATED[repeated]
    for head in ("", HEAD + '"', "<DataReport>", "S-07."):
        small, large = (cost(read, head + piece * (size // len(piece))) for size in (50_000, 200_000))
        # Below a hundredth of a second nothing can be told apart, and nothing needs to be.
        assert large < 0.01 or large < 8.0 * max(small, 0.002), (head, small, large)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("[" * 100_000, "nested too deeply"),
        (HEAD + "[" * 60 + "]" * 60 + "}", "nested too deeply"),
        (HEAD + "9" * 5000 + "}", "more digits"),
        (HEAD + '"a\\ud800b"}', "cannot be written"),
        (HEAD + '"a\\u0000b"}', "cannot be written"),
        (HEAD + '"' + '\\"' * 20_000, "not valid JSON"),
    ],
)
def test_documents_that_are_made_to_hurt_are_refused_in_a_sentence(text, says):
    with pytest.raises(DocumentError, match=says):
        load(text)


def test_edits_with_text_that_cannot_be_written_are_refused():
    for title in ("a\ud800", "a\0"):
        with pytest.raises(EditError, match="cannot be written"):
            edit_from_json({"kind": "set_title", "title": title})
    assert edit_from_json({"kind": "set_title", "title": r"a\u0000 as typed"}).title == r"a\u0000 as typed"
