"""The efficiency of a machine from its measured outlet temperature."""

import pytest
from plants import C4, feed, plant, q

from wattaxis import edit, solve


def run(machine, **spec):
    units = {"F": feed(temperature="420 K", pressure="4 bar"), "K": (machine, {k: q(v) for k, v in spec.items()}), "Z": ("product", {})}
    return solve(plant(C4, units, ["S-1: F.outlet -> K.inlet", "S-2: K.outlet -> Z.inlet"]))


@pytest.mark.parametrize(("machine", "ratio"), [("compressor", "2.5"), ("expander", "0.4")])
def test_the_efficiency_follows_from_the_outlet_temperature(machine, ratio):
    assumed = run(machine, pressure_ratio=ratio, efficiency="68 %")
    measured = run(machine, pressure_ratio=ratio, outlet_temperature=f"{assumed.streams['S-2'].temperature!r} K")
    assert measured.complete
    assert not measured.assumptions
    values = {v.key: v.value for v in measured.units["K"].values}
    assert values["efficiency"] == pytest.approx(0.68, rel=1e-8)
    assert measured.streams["S-2"].enthalpy_flow == pytest.approx(assumed.streams["S-2"].enthalpy_flow, rel=1e-10)


def test_an_outlet_too_cold_for_any_machine_is_said():
    result = run("compressor", pressure_ratio="2.5", outlet_temperature="421 K")
    (finding,) = [f for f in result.findings if f.severity == "caution"]
    assert "no machine has" in finding.text
    assert "At 100 % it leaves at" in finding.remedy
    both = run("compressor", power="100 kW", outlet_temperature="460 K")
    assert any("does not follow from them" in f.text for f in both.findings)


def test_liquid_in_the_suction_is_knocked_out_by_its_repair():
    units = {"F": feed(temperature="300 K", pressure="4 bar"), "K": ("compressor", {"pressure_ratio": q("2")}), "Z": ("product", {})}
    wet = plant(C4, units, ["S-1: F.outlet -> K.inlet", "S-2: K.outlet -> Z.inlet"])
    (finding,) = [f for f in solve(wet).findings if "suction is liquid" in f.text]
    assert finding.repair_title == "Add a knock-out drum"
    dry = edit(wet, "batch", edits=list(finding.repair))
    result = solve(dry)
    assert result.complete
    assert not [f for f in result.findings if f.severity != "note"]
    (drum,) = [u for u in dry.units if u.type == "drum"]
    assert drum.x < dry.unit("K").x
    assert {u.type for u in dry.units} == {"feed", "compressor", "drum", "product"}
    assert abs(result.balance.mass_gap) < 1e-12


def test_without_losses_the_polytropic_exponent_is_that_of_the_isentrope():
    """Of nitrogen as an ideal gas k = Cp/(Cp - R), and the polytropic head is the isentropic one."""
    spec = {"temperature": q("300 K"), "pressure": q("1 bar"), "flow": q("1 mol/s")}
    spec |= {"composition": {"basis": "mole_fraction", "values": {"nitrogen": q("1")}}}
    units = {"F": ("feed", spec), "K": ("compressor", {"pressure_ratio": q("1.2"), "efficiency": q("100 %")}), "Z": ("product", {})}
    result = solve(plant([("nitrogen", "7727-37-9")], units, ["S-1: F.outlet -> K.inlet", "S-2: K.outlet -> Z.inlet"], "ideal"))
    assert result.units["K"]["polytropic_exponent"] == pytest.approx(1.4, abs=0.003)
    assert result.units["K"]["polytropic_head"] == pytest.approx(result.units["K"]["head"], rel=1e-5)
