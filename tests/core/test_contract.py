"""The contract of unit operations: what ships holds it; what does not is refused, or ends as a finding at its unit and nowhere else."""

import pytest
from plants import C4, conversions, converts, feed, plant, points, q

from wattaxis import EditError, assumption_influence, edit, solve
from wattaxis.flowsheet.document import own_shapes, to_data
from wattaxis.quantities import KINDS, Kind, register_kind
from wattaxis.testing import Unsound, check_unit
from wattaxis.unitops import Choice, Column, Field, GivenTable, Port, StreamState, UnitOperation, UnitResult, UnitSpec, register, unit_types
from wattaxis.unitops.declaration import declaration_problems
from wattaxis.unitops.registry import _LEFT_OUT, _REGISTERED

#: Givens that make each unit whole, and feeds that are not the standard one.
WHOLE = {
    "valve": {"outlet_pressure": "2 bar"},
    "heater": {"outlet_temperature": "350 K"},
    "cooler": {"outlet_temperature": "300 K"},
    "drum": {"temperature": "330 K"},
    "mixer": {},
    "pump": {"curve": points([[0, 300, None], [400, 100, None]])},
    "compressor": {"outlet_pressure": "20 bar"},
    "expander": {"outlet_pressure": "2 bar"},
    "stream-copy": {},
    "tank": {"volume": "3 m3"},
    "component-splitter": {"shares": {"values": {"propane": "0.9"}}, "overhead_temperature": "300 K", "bottoms_temperature": "300 K"},
    "heat-exchanger": {"duty": "1 kW"},
    "pipe": {"length": "10 m", "diameter": "0.2 m"},
    "decanter": {"temperature": "300 K"},
    "three-phase-separator": {"temperature": "300 K"},
    "splitter": {"share_1": "0.3", "share_2": "0.2", "share_3": "0.1"},
    "air-cooler": {"outlet_temperature": "310 K"},
    "utility-heater": {"outlet_temperature": "330 K", "utility": "low-pressure steam"},
    "utility-cooler": {"outlet_temperature": "310 K", "utility": "cooling water"},
}
HOT = {"heat-exchanger": {"hot_in": {"temperature": "400 K"}}, "compressor": {"inlet": {"temperature": "420 K"}}}
HOT["expander"] = HOT["compressor"]
PASS = (Port("inlet", "Inlet", "in"), Port("outlet", "Outlet", "out", place=(1.0, 0.5)))


@pytest.mark.parametrize("kind", sorted(unit_types()))
def test_what_ships_is_declared_soundly_and_holds_the_contract(kind):
    assert declaration_problems(type(unit_types()[kind])) == []
    if kind in WHOLE:
        check_unit(unit_types()[kind], WHOLE[kind], feeds=HOT.get(kind))


def test_a_reactor_balances_by_mass():
    kind, spec = conversions(("R1", "10 %", "n-butane"), outlet_temperature="350 K")
    sets = converts({"n-butane": -1.0, "isobutane": 1.0})
    parts = (("n-butane", "106-97-8"), ("isobutane", "75-28-5"))
    check_unit(unit_types()[kind], spec, components=parts, reactions=sets)
    for heat in ({"outlet_temperature": "350 K"}, {"duty": "10 kW"}):
        check_unit(unit_types()["equilibrium-reactor"], {"reactions": "Main", **heat}, components=parts, reactions=sets)
        check_unit(unit_types()["gibbs-reactor"], heat, components=parts)


RATE = {"orders": {"n-butane": 1}, "basis": "partial pressure", "value": 0.5, "unit": "mol/(m3 s bar)"}
TURNING = {"name": "R1", "numbers": {"n-butane": -1, "isobutane": 1}, "forward": RATE, "backward": "thermodynamics"}


@pytest.mark.parametrize(
    ("kind", "spec"),
    [
        ("plug-flow-reactor", {"volume": "20 m3"}),
        ("plug-flow-reactor", {"conversion": "5 %", "heat": "isothermal"}),
        ("plug-flow-reactor", {"length": "6 m", "diameter": "40 mm", "tubes": "900", "pressure_loss": "packed bed", "particle_diameter": "8 mm"}),
        ("batch-reactor", {"time": "20 min", "heat": "isothermal"}),
        ("batch-reactor", {"conversion": "5 %"}),
        ("batch-reactor", {"time": "20 min", "heat": "heat spread evenly", "duty": "4 kW"}),
        ("batch-reactor", {"time": "20 min", "heat": "coolant at one temperature", "coolant_temperature": "440 K", "conductance": "40 W/K"}),
        ("stirred-tank", {"residence_time": "10 s", "duty": "0 kW"}),
        ("stirred-tank", {"volume": "1 m3", "outlet_temperature": "430 K"}),
    ],
)
def test_reactors_with_rates_hold_the_contract(kind, spec):
    parts = (("n-butane", "106-97-8"), ("isobutane", "75-28-5"))
    warm = {"inlet": {"temperature": "450 K", "pressure": "5 bar"}}
    check_unit(unit_types()[kind], {"reactions": "Main", **spec}, components=parts, feeds=warm, reactions=[{"name": "Main", "reactions": [TURNING]}])


class Blank(UnitSpec):
    pass


def outside(kind="outsider", solve=None, **declared):
    """A unit of somebody else's, which passes its inlet on unless ``solve`` says otherwise."""

    def passed(self, givens, inlets, model, outlets):
        return UnitResult({"outlet": inlets["inlet"][0]})

    standard = {"title": "Outsider", "symbol": "valve", "letter": "O", "family": "pressure", "theory": "None.", "Spec": Blank, "ports": PASS}
    return type("Outsider", (UnitOperation,), {"type": kind, **standard, "solve": solve or passed, **declared})


@pytest.fixture(autouse=True)
def _forgotten():
    known = dict(_REGISTERED)
    yield
    _REGISTERED.clear()
    _REGISTERED.update(known)


@pytest.mark.parametrize(
    ("declared", "says"),
    [
        ({"kind": "Out Sider"}, "small letters"),
        ({"title": ""}, "it lacks title"),
        ({"ports": (*PASS, PASS[0])}, "the port 'inlet' is there twice"),
        ({"ports": (Port("inlet", "Inlet", "inwards"),)}, "neither .in. nor .out."),
        ({"ports": (Port("inlet", "Inlet", "in", place=(2.0, 0.0)),)}, "outside its symbol"),
        ({"ports": (Port("inlet", "Inlet", "in", kind="money"),)}, "carries 'money'"),
        ({"fields": (Field("duty", "Duty", "power"),)}, "'duty' is not in its Spec"),
        ({"Spec": type("S", (UnitSpec,), {"__annotations__": {"duty": str | None}, "duty": None})}, "which no field shows"),
        ({"choices": (Choice("Duty", ("duty",)),)}, "speaks of 'duty'"),
        ({"choices": (Choice("Duty", (), 1),)}, "asks for 1 of 0"),
    ],
)
def test_a_declaration_that_contradicts_itself_is_refused_where_it_is_made(declared, says):
    with pytest.raises(ValueError, match=says):
        register(outside(**declared))
    assert declared.get("kind", "outsider") not in _REGISTERED


class TableSpec(UnitSpec):
    rows: GivenTable | None = None
    wrong: str | None = None


@pytest.mark.parametrize(
    ("field", "says"),
    [
        (Field("rows", "Rows", "table"), "a table without columns"),
        (Field("rows", "Rows", "table", columns=(Column("a", "A", "colour"),)), "of the kind 'colour'"),
        (Field("rows", "Rows", "table", columns=(Column("a", "A", "option"),)), "no options"),
        (Field("rows", "Rows", "table", columns=(Column("a", "A", "power"),) * 2), "the column 'a' is there twice"),
        (Field("rows", "Rows", "power", columns=(Column("a", "A", "power"),)), "has columns and is no table"),
        (Field("rows", "Rows", "wealth"), "of the kind 'wealth'"),
    ],
)
def test_a_field_that_cannot_be_is_refused(field, says):
    with pytest.raises(ValueError, match=says):
        register(outside(Spec=TableSpec, fields=(field, Field("wrong", "Wrong", "option", options=("a",)))))


class OptionSpec(UnitSpec):
    kind: str | None = None


KIND = Field("kind", "Kind", "option", options=("thin", "thick"))


def test_an_option_is_assumed_read_and_listed_like_a_quantity_and_must_be_one_of_its_own():
    choice = Choice("Kind", ("kind",), 1, ("kind", "thick", "the usual one"))
    seen = []

    def solve_and_look(self, givens, inlets, model, outlets):
        seen.append(givens.option("kind"))
        return UnitResult({"outlet": inlets["inlet"][0]})

    register(outside(solve=solve_and_look, Spec=OptionSpec, fields=(KIND,), choices=(choice,)))
    for given, read, count in (({}, "thick", 1), ({"kind": "thin"}, "thin", 0)):
        units = {"F": feed(), "U": ("outsider", given), "Z": ("product", {})}
        document = plant(C4, units, ["S-1: F.outlet -> U.inlet", "S-2: U.outlet -> Z.inlet"])
        result = solve(document)
        assert result.complete
        assert seen[-1] == read
        assert [(a.title, a.value, a.reason) for a in result.assumptions if a.place == "U"] == [("Kind", "thick", "the usual one")] * count
        assert assumption_influence(document) == []
    strange = Choice("Kind", ("kind",), 1, ("kind", "golden", "somebody likes it"))
    with pytest.raises(ValueError, match="'golden' for 'kind', which is not offered there"):
        register(outside(kind="strange", Spec=OptionSpec, fields=(KIND,), choices=(strange,)))


def beside(operation):
    """A plant of two lines, one of them through a unit of somebody else's."""
    register(operation)
    units = {
        "F": feed(),
        "U": ("outsider", {}),
        "Z": ("product", {}),
        "G": feed(),
        "V": ("valve", {"outlet_pressure": q("2 bar")}),
        "Y": ("product", {}),
    }
    lines = ["1: F.outlet -> U.inlet", "2: U.outlet -> Z.inlet", "3: G.outlet -> V.inlet", "4: V.outlet -> Y.inlet"]
    return solve(plant(C4, units, lines))


def raising(self, givens, inlets, model, outlets):
    return {}["nothing"]


def misspelt(self, givens, inlets, model, outlets):
    return UnitResult({"outlett": inlets["inlet"][0]})


def no_number(self, givens, inlets, model, outlets):
    return UnitResult({"outlet": StreamState(float("nan"), inlets["inlet"][0].state)})


def no_heat(self, givens, inlets, model, outlets):
    return UnitResult({"outlet": inlets["inlet"][0]}, float("nan"))


@pytest.mark.parametrize(
    ("does", "says"),
    [
        (raising, "it ends with KeyError"),
        (misspelt, "'outlett', which is not one"),
        (no_number, "leaves it by outlet is not"),
        (no_heat, "energy_in is not"),
    ],
)
def test_a_unit_that_fails_takes_nothing_else_down_and_is_told(does, says):
    result = beside(outside(solve=does))
    (told,) = [f for f in result.findings if f.place == "U" and f.severity == "fault"]
    assert says in told.text
    assert "defect" in told.remedy
    assert result.streams["4"].pressure == 2e5
    with pytest.raises(Unsound, match=r"outlett|KeyError|not a number"):
        check_unit(outside(solve=does)(), {})


def test_a_unit_that_makes_matter_or_leaves_its_outlets_out_of_a_draft_is_found():
    def more(self, givens, inlets, model, outlets):
        inlet = inlets["inlet"][0]
        return UnitResult({"outlet": StreamState(1.1 * inlet.flow, inlet.state)})

    def lazy(self, givens, inlets, model, outlets):
        return UnitResult({} if givens.draft else {"outlet": inlets["inlet"][0]})

    with pytest.raises(Unsound, match="balances"):
        check_unit(register(outside(solve=more))(), {})
    with pytest.raises(Unsound, match="draft"):
        check_unit(register(outside(solve=lazy, drafts=True))(), {})


def test_a_package_that_cannot_be_imported_is_named_where_its_type_is_missed(monkeypatch):
    monkeypatch.setitem(_LEFT_OUT, "membranes", "ImportError: no module named fibres")
    with pytest.raises(ValueError, match=r"no unit operation 'membrane'.*membranes \(ImportError: no module named fibres\)"):
        plant(C4, {"M": ("membrane", {})}, [])


class DrawSpec(UnitSpec):
    draws: GivenTable | None = None


def test_ports_follow_from_the_rows_of_a_table_and_a_row_with_a_stream_stays():
    share = Column("share", "Share", "fraction")

    def drawn(self, givens, inlets, model, outlets):
        inlet, table = inlets["inlet"][0], givens.raw("draws")
        parts = {f"draw_{row.id}": StreamState(inlet.flow * float(x), inlet.state) for row, x in zip(table.rows, table.si(share), strict=True)}
        return UnitResult({**parts, "outlet": StreamState(inlet.flow * (1.0 - float(table.si(share).sum())), inlet.state)})

    def ports_of(self, spec):
        rows = spec.draws.rows if spec.draws else ()
        return (*PASS, *(Port(f"draw_{row.id}", f"Draw {k}", "out", needed=False) for k, row in enumerate(rows, 1)))

    fields = (Field("draws", "Draws", "table", columns=(share,)),)
    register(outside(solve=drawn, Spec=DrawSpec, fields=fields, choices=(Choice("Draws", ("draws",)),), ports_of=ports_of))
    rows = [{"id": "1", "cells": {"share": q("0.2 ")}}, {"id": "2", "cells": {"share": q("0.3 ")}}]
    units = {"F": feed(), "U": ("outsider", {"draws": {"rows": rows}}), "Z": ("product", {}), "Y": ("product", {})}
    document = plant(C4, units, ["1: F.outlet -> U.inlet", "2: U.outlet -> Z.inlet", "3: U.draw_2 -> Y.inlet"])
    assert {tag: [p.key for p in ports] for tag, (ports, _) in own_shapes(to_data(document)).items()} == {
        "U": ["inlet", "outlet", "draw_1", "draw_2"]
    }
    result = solve(document)
    assert result.streams["3"].mole_flow == pytest.approx(0.3 * result.streams["1"].mole_flow)
    with pytest.raises(EditError, match="draw_2"):
        edit(document, "set_row", unit="U", field="draws", row="2", cells=None)
    assert [p.key for p in edit(document, "set_row", unit="U", field="draws", row="1", cells=None).unit("U").ports] == ["inlet", "outlet", "draw_2"]
    aim = {"name": "a", "formula": "3.mole_flow", "target": q("40 kmol/h"), "free": {"unit": "U", "field": "draws[2].share"}}
    met = solve(edit(document, "set_aim", name="a", aim={**aim, "formula": '"3".mole_flow'}))
    assert (met.aims[0].state, met.aims[0].freed) == ("met", pytest.approx(0.4))


def test_kinds_of_quantity_that_cannot_be_are_refused():
    with pytest.raises(ValueError, match="already a kind"):
        register_kind(Kind("pressure", "push", ("Pa",), ("Pa",)))
    with pytest.raises(ValueError, match="bar is no unit of it"):
        register_kind(Kind("dose", "dose", ("J/kg",), ("kJ/kg", "bar"), 0.0))
    assert "dose" not in KINDS


@pytest.mark.parametrize(
    "word",
    ["evaporator", "condenser", "chiller", "turbine", "fan", "blower", "vessel", "scrubber", "source", "sink", "separator", "reactor", "furnace"],
)
def test_units_are_found_by_everyday_words(word):
    assert any(word in other.lower() for operation in unit_types().values() for other in (operation.title, *operation.also))
