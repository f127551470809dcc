"""The search as practitioners type: abbreviations, formulas in any order, misspellings, numbers of refrigerants."""

from pathlib import Path

import pytest

from wattaxis import component, search

LINES = (Path(__file__).resolve().parents[1] / "data" / "searches.txt").read_text().splitlines()
QUERIES = [tuple(line.rsplit(" ", 1)) for line in LINES if line and not line.startswith("#")]


def test_the_expected_substance_comes_first_for_ninety_nine_in_a_hundred():
    missed = [(query, found[0].name if found else "nothing") for query, cas in QUERIES if not (found := search(query, 3)) or found[0].cas != cas]
    assert len(QUERIES) >= 290
    assert len(missed) <= 0.01 * len(QUERIES), missed


@pytest.mark.parametrize("key", ["CO2", "O2C", "co2", "R744", "124-38-9", "carbon dioxide"])
def test_a_component_is_found_by_whatever_names_it_alone(key):
    assert component(key).name == "carbon dioxide"


def test_a_formula_of_several_substances_says_which_they_are():
    with pytest.raises(KeyError, match=r"ethanol.*dimethyl ether"):
        component("C2H6O")


def test_the_order_of_capitals_matters_in_formulas():
    assert search("CO", 1)[0].name == "carbon monoxide"
    assert search("Co", 1)[0].formula == "Co"
