"""Curves of pumps, compressors and expanders: where they work, at another speed, beyond their ends."""

import math

import pytest
from plants import plant, points, q
from pydantic import ValidationError

from wattaxis import EditError, PropertyModel, edit, solve
from wattaxis.flowsheet.document import dump, load
from wattaxis.unitops.pressure.curve import curve_points, has_efficiency
from wattaxis.unitops.table import GivenTable

WATER = [("water", "7732-18-5")]
GAS = [("nitrogen", "7727-37-9"), ("oxygen", "7782-44-7")]
#: H = 60 m - 0.006 m (Q/(m3/h))2, the parabola of a small centrifugal pump, with the best efficiency at 60 m3/h.
PUMP = points([[f, 60 - 0.006 * f**2, 75 - 0.01 * (f - 60) ** 2] for f in range(0, 101, 10)])
BLOWER = points([[1.0, 60.0, 70.0], [2.0, 52.0, 80.0], [3.0, 36.0, 72.0]], "m3/s", "kJ/kg")


def pumped(flow="50 m3/h", curve=PUMP, **given):
    feed = {
        "temperature": q("298.15 K"),
        "pressure": q("1 bar"),
        "volume_flow": q(flow),
        "composition": {"basis": "mole_fraction", "values": {"water": q("1 ")}},
    }
    units = {"F": ("feed", feed), "P": ("pump", {"curve": curve, **given}), "Z": ("product", {})}
    return plant(WATER, units, ["1: F.outlet -> P.inlet", "2: P.outlet -> Z.inlet"], "steam")


def blown(kind="compressor", flow="2 m3/s", pressure="1 bar", curve=BLOWER, **given):
    values = {"nitrogen": q("0.79 "), "oxygen": q("0.21 ")}
    feed = {"temperature": q("300 K"), "pressure": q(pressure), "volume_flow": q(flow), "composition": {"basis": "mole_fraction", "values": values}}
    units = {"F": ("feed", feed), "K": (kind, {"curve": curve, **given}), "Z": ("product", {})}
    return plant(GAS, units, ["1: F.outlet -> K.inlet", "2: K.outlet -> Z.inlet"])


def values(result, tag):
    return {v.key: v.value for v in result.units[tag].values}


@pytest.mark.parametrize("flow", [20.0, 50.0, 85.0])
def test_a_pump_works_where_its_curve_says(flow):
    result = solve(pumped(f"{flow} m3/h"))
    found = values(result, "P")
    density = result.streams["1"].density
    head = 60 - 0.006 * flow**2
    assert found["pressure_change"] == pytest.approx(density * 9.80665 * head, rel=2e-4)
    efficiency = (75 - 0.01 * (flow - 60) ** 2) / 100
    assert found["power"] == pytest.approx(density * 9.80665 * head * flow / 3600 / efficiency, rel=1e-3)
    assert not result.assumptions or [a.field for a in result.assumptions] == ["speed"]


def test_at_half_speed_half_the_flow_has_a_quarter_of_the_head():
    full, half = (values(solve(pumped(flow, speed=q(speed))), "P") for flow, speed in (("60 m3/h", "100 %"), ("30 m3/h", "50 %")))
    assert half["head"] == pytest.approx(full["head"] / 4, rel=1e-9)
    assert half["power"] == pytest.approx(full["power"] / 8, rel=1e-9)


def test_an_aim_finds_the_speed_for_a_pressure():
    document = edit(pumped("50 m3/h", speed=q("90 %")), "set_aim", name="P", aim={
        "name": "P", "formula": "P.outlet_pressure", "target": q("7 bar"), "free": {"unit": "P", "field": "speed"},
    })  # fmt: skip
    result = solve(document)
    assert result.aims[0].state == "met"
    # H n2 (60 - 0.006 (50/n)2) = 60 n2 - 15 m = 6 bar over density and gravity.
    wanted = 6e5 / (result.streams["1"].density * 9.80665)
    assert result.aims[0].freed == pytest.approx(math.sqrt((wanted + 15.0) / 60.0), rel=1e-3)


def test_a_compressor_follows_its_isentropic_head():
    result = solve(blown())
    found = values(result, "K")
    assert found["head"] == pytest.approx(52e3, rel=1e-9)
    assert found["efficiency"] == pytest.approx(0.80, rel=1e-9)
    model = PropertyModel("peng-robinson", ["nitrogen", "oxygen"], translated=True)
    inlet = model.flash([0.79, 0.21], T=300.0, P=1e5)
    ideal = model.flash([0.79, 0.21], P=found["outlet_pressure"], S=inlet.entropy)
    assert (ideal.enthalpy - inlet.enthalpy) / inlet.molar_mass == pytest.approx(52e3, rel=1e-8)
    curve = result.units["K"].profile("curve")
    assert [(m.place, m.value) for m in curve.marks if m.name == "works here"] == [pytest.approx((2.0, 52e3))]
    assert curve.at("head", 2.0) == pytest.approx(52e3, rel=1e-3)
    given = values(solve(blown(efficiency=q("65 %"))), "K")
    assert given["efficiency"] == pytest.approx(0.65)
    assert given["outlet_pressure"] == pytest.approx(found["outlet_pressure"], rel=1e-9)


def test_an_expander_lets_down_by_its_head():
    result = solve(blown("expander", pressure="5 bar"))
    found = values(result, "K")
    assert found["head"] == pytest.approx(52e3, rel=1e-8)
    assert found["outlet_pressure"] < 5e5
    assert found["efficiency"] == pytest.approx(0.8, rel=1e-9)


@pytest.mark.parametrize(
    ("document", "severity", "words"),
    [
        (lambda: pumped("140 m3/h"), "fault", "develops no head"),
        (lambda: blown(flow="0.8 m3/s"), "caution", "below the lowest point"),
        (lambda: blown(flow="3.3 m3/s"), "caution", "beyond the highest point"),
        (lambda: pumped(curve=points([[1.0, 2.0, None]])), "fault", "two complete points"),
        (lambda: pumped(curve=points([[1.0, 2.0, None], [1.0, 3.0, None]])), "fault", "another volume flow"),
        (lambda: pumped(speed=q("0 %")), "fault", "does not run"),
        (lambda: pumped(outlet_pressure=q("5 bar")), "fault", "only 1 may be specified"),
    ],
)
def test_what_the_curve_cannot_say_is_told(document, severity, words):
    found = [f for f in solve(document()).findings if words in f.text]
    assert found
    assert found[0].severity == severity
    assert found[0].remedy


def test_a_curve_is_kept_as_typed_and_refused_with_wrong_units():
    document = blown()
    assert load(dump(document)) == document
    bare = GivenTable.model_validate(points([[10.0, 5.0, None]]))
    assert curve_points(bare)[1] == pytest.approx([5 * 9.80665])
    assert not has_efficiency(bare)
    with pytest.raises(EditError, match="row 1: head: .*kg"):
        edit(document, "set_values", unit="K", values={"curve": points([[10.0, 5.0, None]], head="kg")})
    with pytest.raises(ValidationError, match="finite"):
        GivenTable.model_validate(points([[float("nan"), 5.0, None]]))


def test_scaling_names_the_curve_as_a_size():
    from wattaxis.quantities import Quantity
    from wattaxis.questions import scale_to_production

    document = pumped()
    scaled = scale_to_production(document, solve(document), "2", Quantity(value=1e6, unit="t"), 330.0)
    assert any("curve" in text for text in scaled.marked)


def test_a_speed_without_a_curve_is_kept_and_said():
    document = edit(pumped(speed=q("90 %")), "set_values", unit="P", values={"curve": None, "outlet_pressure": q("5 bar")})
    result = solve(document)
    assert result.complete
    assert any("Speed of P is not used" in f.text and f.severity == "note" for f in result.findings)
