"""A unit operation added from outside the package, as docs/extending.md tells; and the documents that ship."""

import json
import math
import re
from pathlib import Path

import pytest
from plants import C4, demo, feed, plant, q

import wattaxis
from wattaxis import PropertyModel, dump, edit, json_schema, load, solve
from wattaxis.properties.registry import _KINDS
from wattaxis.quantities import KINDS
from wattaxis.unitops.registry import _REGISTERED

DOCS = Path(__file__).resolve().parents[2] / "docs"


def code_blocks(name):
    return re.findall(r"```python\n(.*?)```", (DOCS / name).read_text(), re.DOTALL)


@pytest.fixture
def pump():
    exec(compile(code_blocks("extending.md")[0], "extending.md", "exec"), {"__name__": "outside"})
    yield
    del _REGISTERED["liquid-pump"]


def test_the_pump_of_the_documentation_works_and_closes_its_balances(pump):
    units = {"F": feed(temperature="280 K"), "P": ("liquid-pump", {"outlet_pressure": q("25 bar")}), "Z": ("product", {})}
    result = solve(plant(C4, units, ["1: F.outlet -> P.inlet", "2: P.outlet -> Z.inlet"]))
    assert result.complete
    assert result.streams["2"].pressure == pytest.approx(25e5)
    volume = PropertyModel("peng-robinson", [c for c, _ in C4], translated=True).flash([0.3, 0.4, 0.3], T=280.0, P=10e5).molar_volume
    assert result.streams["2"].molar_enthalpy - result.streams["1"].molar_enthalpy == pytest.approx(volume * 15e5, rel=1e-6)
    assert "liquid-pump" in json.dumps(json_schema())


@pytest.fixture
def membrane():
    names = {"__name__": "outside"}
    exec(compile(code_blocks("extending.md")[1], "extending.md", "exec"), names)
    yield names
    del _REGISTERED["gas-membrane"], KINDS["permeance"], KINDS["membrane_area"]


def separated(area="500 m2", low="2 bar", shares=(0.5, 0.5, 0.0), **permeances):
    values = {"permeances": {"values": permeances}, "area": area, "permeate_pressure": low}
    units = {"F": feed(temperature="400 K", parts=shares), "M": ("gas-membrane", values), "Z": ("product", {}), "Y": ("product", {})}
    result = solve(plant(C4, units, ["1: F.outlet -> M.feed", "2: M.retentate -> Z.inlet", "3: M.permeate -> Y.inlet"]))
    assert result.complete, result.findings
    return result


def test_the_membrane_of_the_documentation_proves_itself_and_meets_what_is_known_exactly(membrane):
    exec(compile(code_blocks("extending.md")[2], "extending.md", "exec"), {})
    # Of a pure gas as much permeates as permeance, area and the difference of the pressures say.
    pure = separated(shares=(1.0, 0.0, 0.0), propane="30 GPU").streams["3"]
    assert pure.mole_flow == pytest.approx(30 * 3.346428e-10 * 500.0 * 8e5, rel=1e-9)
    # Into a vacuum the logarithms of what is left of two gases go as their permeances.
    left = separated("2000 m2", "1e-6 bar", **{"propane": "30 GPU", "n-butane": "10 GPU"}).streams["2"].mole_flows
    fed = 50e3 / 3600.0
    assert math.log(left["propane"] / fed) == pytest.approx(3.0 * math.log(left["n-butane"] / fed), rel=0.02)
    wrong = edit(demo(), "add_unit", unit={"tag": "M-1", "type": "gas-membrane", "spec": {"permeances": {"values": {"hydrogen": q("9 GPU")}}}})
    freed = edit(wrong, "set_values", unit="M-1", values={"permeances[water]": q("2 GPU")})
    assert str(freed.unit("M-1").spec.permeances.values["water"]) == "2 GPU"


@pytest.fixture
def heavy():
    exec(compile(code_blocks("extending.md")[3], "extending.md", "exec"), {"__name__": "outside"})
    yield
    del _KINDS["peng-robinson-1978"]


def test_the_property_model_of_the_documentation_works_in_scripts_and_documents(heavy):
    light, dark = ["propane", "n-pentane"], ["n-pentane", "eicosane"]
    assert wattaxis.model_infos()["peng-robinson-1978"].title == "Peng-Robinson, 1978"
    for parts, same in ((light, True), (dark, False)):
        old, new = (
            PropertyModel(kind, parts, bank_pairs=False).flash([0.5, 0.5], T=400.0, VF=0.0).pressure
            for kind in ("peng-robinson", "peng-robinson-1978")
        )
        assert (old == new) is same
    document = edit(demo(), "set_model", model="peng-robinson-1978")
    assert load(dump(document)) == document
    assert solve(document).complete


@pytest.mark.parametrize("name", wattaxis.__all__)
def test_every_public_name_has_an_example_that_runs(name):
    """That it runs is seen by the doctests; here that it is there."""
    assert ">>>" in getattr(wattaxis, name).__doc__


def test_the_shipped_schema_is_current():
    shipped = json.loads((DOCS / "document-schema.json").read_text())
    assert shipped == json.loads(json.dumps(json_schema())), "run: write wattaxis.json_schema() to docs/document-schema.json"


def test_the_recipes_run(tmp_path, monkeypatch, capsys):
    (tmp_path / "plant.json").write_text(dump(demo()))
    monkeypatch.chdir(tmp_path)
    names: dict = {}
    for block in code_blocks("recipes.md"):
        exec(compile(block, "recipes.md", "exec"), names)
    hydrogen_rich = [float(line.split()[1]) for line in capsys.readouterr().out.splitlines() if line[:2] in ("30", "40", "50")]
    assert hydrogen_rich == sorted(hydrogen_rich)  # warmer: more vapour
    assert (tmp_path / "changed.json").exists()
