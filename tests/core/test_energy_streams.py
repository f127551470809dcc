"""Heat and shaft streams: what one unit gives, another takes; boundaries that follow; loops through them; balances."""

import itertools

import pytest
from plants import C4, feed, plant, q

from wattaxis import DocumentError, Memory, edit, solve
from wattaxis.flowsheet.edit_kinds import EditError

LINE = ["S-1: F.outlet -> C.inlet", "S-2: C.outlet -> Z.inlet", "S-3: G.outlet -> H.inlet", "S-4: H.outlet -> Y.inlet"]


def two_lines(**changed):
    units = {
        "F": feed(temperature="400 K"),
        "C": ("cooler", {"outlet_temperature": q("350 K")}),
        "Z": ("product", {}),
        "G": feed(temperature="300 K"),
        "H": ("heater", {}),
        "Y": ("product", {}),
    }
    return {**units, **changed}


def told(result, severity="fault"):
    return [f.text for f in result.findings if f.severity == severity]


def test_the_heat_of_a_cooler_warms_another_stream():
    result = solve(plant(C4, two_lines(), [*LINE, "Q-01: C.heat_out -> H.heat_in"]))
    assert result.complete
    assert told(result) == told(result, "caution") == []
    gone = result.streams["S-1"].enthalpy_flow - result.streams["S-2"].enthalpy_flow
    taken = result.streams["S-4"].enthalpy_flow - result.streams["S-3"].enthalpy_flow
    assert gone == pytest.approx(taken, rel=1e-10)
    heat = result.energies["Q-01"]
    assert (heat.kind, heat.power, heat.low, heat.high) == ("heat", pytest.approx(gone, rel=1e-12), 350.0, 400.0)
    assert abs(result.balance.energy_gap) < 1e-12
    # The same as a heater with the number typed.
    typed = two_lines(H=("heater", {"duty": q(f"{gone!r} W")}))
    assert solve(plant(C4, typed, LINE)).streams["S-4"].temperature == pytest.approx(result.streams["S-4"].temperature, rel=1e-10)


def test_heat_does_not_flow_uphill_unnoticed():
    units = two_lines(G=feed(temperature="390 K"))
    (text,) = told(solve(plant(C4, units, [*LINE, "Q-01: C.heat_out -> H.heat_in"])), "caution")
    assert "cross" in text
    assert "350 to 400 K" in text


def test_a_heat_set_twice_is_said_with_its_repair():
    units = two_lines(H=("heater", {"outlet_temperature": q("340 K")}))
    document = plant(C4, units, [*LINE, "Q-01: C.heat_out -> H.heat_in"])
    result = solve(document)
    (finding,) = [f for f in result.findings if f.severity == "fault"]
    assert finding.place == "H"
    assert "set twice" in finding.text
    assert solve(edit(document, "batch", edits=list(finding.repair))).complete


@pytest.mark.parametrize(("machine", "given"), [("compressor", {"pressure_ratio": q("2.5")}), ("pump", {"pressure_change": q("5 bar")})])
def test_a_drive_without_a_power_gives_what_the_machine_needs(machine, given):
    state = {"temperature": "400 K", "pressure": "2 bar"} if machine == "compressor" else {"temperature": "280 K"}
    units = {"F": feed(**state), "K": (machine, given), "Z": ("product", {}), "MD": ("drive", {})}
    streams = ["1: F.outlet -> K.inlet", "2: K.outlet -> Z.inlet", "W-01: MD.shaft_out -> K.shaft_in"]
    follows = solve(plant(C4, units, streams))
    assert follows.complete
    power = follows.energies["W-01"].power
    needed = next(v.value for v in follows.units["K"].values if v.key == "power")
    assert power == pytest.approx(needed, rel=1e-12)
    assert abs(follows.balance.energy_gap) < 1e-12
    # The other way round: with that power given, the machine reaches the same pressure.
    units |= {"K": (machine, {}), "MD": ("drive", {"power": q(f"{power!r} W")})}
    driven = solve(plant(C4, units, streams))
    assert driven.complete
    assert driven.streams["2"].pressure == pytest.approx(follows.streams["2"].pressure, rel=1e-8)
    # Without either there is nothing to go by.
    asked = solve(plant(C4, {**units, "MD": ("drive", {})}, streams))
    assert [a.place for a in asked.asks] == ["K"]


def expander_train(order):
    """An expander drives the compressor before it and a generator: power goes back upstream."""
    units = {
        "F": feed(temperature="400 K", pressure="3 bar"),
        "K": ("compressor", {}),
        "H": ("heater", {"outlet_temperature": q("520 K")}),
        "X": ("expander", {"outlet_pressure": q("2 bar")}),
        "S": ("shaft-header", {"power_2": q("20 kW")}),
        "G": ("generator", {}),
        "Z": ("product", {}),
    }
    streams = [
        "1: F.outlet -> K.inlet",
        "2: K.outlet -> H.inlet",
        "3: H.outlet -> X.inlet",
        "4: X.outlet -> Z.inlet",
        "W-01: X.shaft_out -> S.inlet",
        "W-02: S.outlet_2 -> K.shaft_in",
        "W-03: S.outlet_1 -> G.shaft_in",
    ]
    return plant(C4, {tag: units[tag] for tag in order}, streams)


def test_a_loop_closes_through_a_shaft_whatever_the_order():
    order = ("F", "K", "H", "X", "S", "G", "Z")
    first = solve(expander_train(order))
    assert first.complete
    assert first.energies["W-01"].power == pytest.approx(first.energies["W-02"].power + first.energies["W-03"].power, rel=1e-9)
    assert abs(first.balance.energy_gap) < 1e-9
    for other in itertools.islice(itertools.permutations(order), 0, 5040, 1000):
        again = solve(expander_train(other))
        assert again.energies["W-03"].power == first.energies["W-03"].power


def test_all_the_power_goes_round_when_a_branch_takes_the_remainder():
    """Compressor and expander between equal pressures share one shaft: the rest of the expander drives the compressor, a true loop."""
    units = {
        "F": feed(temperature="400 K", pressure="3 bar"),
        "K": ("compressor", {}),
        "H": ("heater", {"outlet_temperature": q("520 K")}),
        "X": ("expander", {"outlet_pressure": q("2 bar")}),
        "Z": ("product", {}),
    }
    streams = [
        "1: F.outlet -> K.inlet",
        "2: K.outlet -> H.inlet",
        "3: H.outlet -> X.inlet",
        "4: X.outlet -> Z.inlet",
        "W-01: X.shaft_out -> K.shaft_in",
    ]
    memory = Memory()
    result = solve(plant(C4, units, streams), memory=memory)
    assert result.complete
    (loop,) = result.loops
    assert loop.closed
    power = {tag: next(v.value for v in result.units[tag].values if v.key == "power") for tag in "KX"}
    assert power["K"] == pytest.approx(power["X"], rel=1e-8)
    assert abs(result.balance.energy_gap) < 1e-8
    # What goes in by the heater is all that the stream gained.
    gained = result.streams["4"].enthalpy_flow - result.streams["1"].enthalpy_flow
    assert gained == pytest.approx(next(v.value for v in result.units["H"].values if v.key == "duty"), rel=1e-7)


def test_a_header_gives_as_told_as_needed_and_the_rest():
    units = two_lines(
        QH=("heat-header", {"power_2": q("100 kW")}),
        QZ=("heat-sink", {"temperature": q("330 K")}),
    )
    streams = [*LINE, "Q-01: C.heat_out -> QH.inlet", "Q-02: QH.outlet_2 -> H.heat_in", "Q-03: QH.outlet_1 -> QZ.heat_in"]
    result = solve(plant(C4, units, streams))
    assert result.complete
    assert result.energies["Q-02"].power == 1e5
    assert result.energies["Q-03"].power == pytest.approx(result.energies["Q-01"].power - 1e5)
    assert abs(result.balance.energy_gap) < 1e-12
    needs = solve(plant(C4, {**units, "QH": ("heat-header", {}), "H": ("heater", {"outlet_temperature": q("320 K")})}, streams))
    assert needs.complete
    taken = needs.streams["S-4"].enthalpy_flow - needs.streams["S-3"].enthalpy_flow
    assert needs.energies["Q-02"].power == pytest.approx(taken, rel=1e-12)
    assert needs.energies["Q-03"].power == pytest.approx(needs.energies["Q-01"].power - taken)
    assert abs(needs.balance.energy_gap) < 1e-12
    units["QH"] = ("heat-header", {"power_2": q("1000 kW")})
    assert any("remainder is negative" in text for text in told(solve(plant(C4, units, streams)), "caution"))


def test_one_drive_gives_what_two_machines_on_a_shaft_need():
    units = {
        "F": feed(temperature="400 K", pressure="2 bar"),
        "K": ("compressor", {"pressure_ratio": q("2")}),
        "L": ("compressor", {"pressure_ratio": q("1.5")}),
        "Z": ("product", {}),
        "MD": ("drive", {}),
        "SH": ("shaft-header", {}),
    }
    streams = [
        "1: F.outlet -> K.inlet",
        "2: K.outlet -> L.inlet",
        "3: L.outlet -> Z.inlet",
        "W-01: MD.shaft_out -> SH.inlet",
        "W-02: SH.outlet_2 -> K.shaft_in",
        "W-03: SH.outlet_3 -> L.shaft_in",
    ]
    result = solve(plant(C4, units, streams))
    assert result.complete
    powers = {tag: e.power for tag, e in result.energies.items()}
    assert powers["W-01"] == pytest.approx(powers["W-02"] + powers["W-03"], rel=1e-12)
    assert abs(result.balance.energy_gap) < 1e-12
    # A second drive with a power takes its part; a second one without is asked for one.
    units["ME"] = ("drive", {"power": q("10 kW")})
    both = solve(plant(C4, units, [*streams, "W-04: ME.shaft_out -> SH.inlet"]))
    assert both.complete
    assert both.energies["W-01"].power == pytest.approx(powers["W-01"] - 1e4, rel=1e-9)
    units["ME"] = ("drive", {})
    asked = solve(plant(C4, units, [*streams, "W-04: ME.shaft_out -> SH.inlet"]))
    assert [(a.place, a.fields) for a in asked.asks] == [("ME", ("power",))]
    assert "by another" in asked.asks[0].text


@pytest.mark.parametrize(("source", "port", "fields"), [("heat-supply", "heat_out", ("power",)), ("heat-header", "outlet_2", ("power_2",))])
def test_what_leads_to_a_sink_needs_a_power(source, port, fields):
    units = two_lines(QS=(source, {}), QZ=("heat-sink", {}))
    streams = [*LINE, f"Q-01: QS.{port} -> QZ.heat_in"]
    if source == "heat-header":
        streams.append("Q-02: C.heat_out -> QS.inlet")
    asks = [a for a in solve(plant(C4, units, streams)).asks if a.place == "QS"]
    assert [a.fields for a in asks] == [fields]
    assert "does not set it" in asks[0].text


def test_a_pin_and_an_aim_speak_of_power():
    document = plant(C4, two_lines(), [*LINE, "Q-01: C.heat_out -> H.heat_in"])
    document = edit(document, "set_pin", name="heat", formula="Q-01.power / 2")
    free = {"unit": "C", "field": "outlet_temperature"}
    aim = {"name": "warm", "formula": "S-4.temperature", "target": q("345 K"), "free": free}
    result = solve(edit(document, "set_aim", name="warm", aim=aim))
    assert result.aims[0].state == "met"
    assert result.streams["S-4"].temperature == pytest.approx(345.0, abs=1e-5)
    assert result.pins[0].value == pytest.approx(result.energies["Q-01"].power / 2)
    volume = solve(edit(document, "set_pin", name="heat", formula="S-2.volume_flow / 2"))
    assert volume.pins[0].kind == "volume_flow"
    assert volume.pins[0].value == pytest.approx(volume.streams["S-2"].volume_flow / 2)
    wrong = solve(edit(document, "set_pin", name="heat", formula="Q-01.temperature"))
    assert "carries heat and has no temperature" in wrong.pins[0].problem


def test_kinds_do_not_mix():
    with pytest.raises(DocumentError, match="cannot lead from C heat given \\(heat\\) to H inlet \\(material\\)"):
        plant(C4, two_lines(), [*LINE[:2], "S-4: H.outlet -> Y.inlet", "Q-01: C.heat_out -> H.inlet"])
    document = plant(C4, two_lines(), [*LINE, "Q-01: C.heat_out -> H.heat_in"])
    with pytest.raises(EditError):
        edit(document, "insert_in_line", stream="Q-01", unit={"tag": "V", "type": "valve", "spec": {}}, inlet="inlet", outlet="outlet")
    # Taking a unit out of its line looks at matter only.
    assert {s.tag for s in edit(document, "take_out", tag="C").streams} == {"S-1", "S-3", "S-4"}
