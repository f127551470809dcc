"""How right the property models are over the whole bank: boiling points, liquid densities, heats, against the measured curves of the bank and against
the reference equations of CoolProp."""

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI, get_fluid_param_string, get_global_param_string

from wattaxis import FlashError, PropertyModel, component
from wattaxis.substances.bank import bank_data
from wattaxis.substances.curves import component_curve

ATMOSPHERE = 101325.0
MODELS = {
    "ideal": {},
    "nrtl": {"vapour": "virial"},
    "peng-robinson": {"translated": True},
    "soave-redlich-kwong": {"translated": True},
}


def substances():
    for entry in bank_data()["substances"]:
        yield component(entry["cas"])


@pytest.mark.parametrize("kind", ["ideal", "peng-robinson", "soave-redlich-kwong", "predictive-soave-redlich-kwong"])
def test_nineteen_in_twenty_substances_boil_within_a_kelvin(kind):
    off = []
    for c in substances():
        if c.boiling_point is None or not 0.3 < c.boiling_point / c.critical_temperature < 0.98:
            continue
        try:
            model = PropertyModel(kind, [c])
        except ValueError:  # no groups
            continue
        off.append(abs(model.flash([1.0], P=ATMOSPHERE, VF=0.0).temperature - c.boiling_point))
    assert len(off) > 400
    assert np.median(off) < 0.4
    assert np.mean(np.array(off) > 1.0) < 0.05


def deviations(kind, curve_name, value):
    """Median relative deviation of each substance with a measured curve, over its range up to 0.8 of the critical temperature."""
    found = []
    for c in substances():
        curve = component_curve(c, curve_name)
        low, high = max(curve.low, 0.3 * c.critical_temperature), min(curve.high, 0.8 * c.critical_temperature)
        if curve.estimated or low >= high:
            continue
        model, off = PropertyModel(kind, [c], **MODELS[kind]), []
        for t in np.linspace(low, high, 5):
            try:
                state = model.flash([1.0], T=float(t), VF=0.0)
            except FlashError:
                continue
            off.append(abs(value(model, state) / curve.at(float(t)) - 1.0))
        if off:
            found.append(np.median(off))
    return np.array(found)


def evaporation(model, state):
    return state.vapour.enthalpy - state.liquid.enthalpy


@pytest.mark.parametrize(
    ("kind", "curve", "value", "least", "median", "ninth"),
    [
        ("ideal", "liquid density", lambda m, s: s.liquid.density, 1300, 0.01, 0.03),
        ("nrtl", "liquid density", lambda m, s: s.liquid.density, 1300, 0.01, 0.03),
        ("peng-robinson", "liquid density", lambda m, s: s.liquid.density, 1300, 0.01, 0.03),
        ("soave-redlich-kwong", "liquid density", lambda m, s: s.liquid.density, 1300, 0.01, 0.03),
        ("ideal", "liquid heat capacity", lambda m, s: s.liquid.heat_capacity, 700, 0.02, 0.05),
        ("nrtl", "liquid heat capacity", lambda m, s: s.liquid.heat_capacity, 700, 0.02, 0.05),
        ("ideal", "heat of vaporisation", evaporation, 1300, 0.02, 0.05),
        ("nrtl", "heat of vaporisation", evaporation, 1300, 0.02, 0.05),
    ],
)
def test_liquids_follow_what_is_measured(kind, curve, value, least, median, ninth):
    off = deviations(kind, curve, value)
    assert len(off) > least
    assert np.median(off) < median
    assert np.percentile(off, 90) < ninth


def fluids():
    """CoolProp's fluids that the bank has, by CAS number."""
    known = {e["cas"] for e in bank_data()["substances"]}
    for name in get_global_param_string("FluidsList").split(","):
        cas = get_fluid_param_string(name, "CAS")
        if cas in known:
            yield name, component(cas)


def test_saturated_liquids_agree_with_reference_equations():
    """Vapour pressure, density, heat of vaporisation and heat capacity at 0.65 Tc with a virial vapour, over all fluids of both."""
    off = {"P": [], "D": [], "L": [], "C": []}
    for name, c in fluids():
        t = 0.65 * c.critical_temperature
        try:
            reference = {key: PropsSI(key, "T", t, "Q", 0, name) for key in ("P", "D", "Hmolar", "Cpmolar")}
            reference["V"] = PropsSI("Hmolar", "T", t, "Q", 1, name)
        except ValueError:  # below the triple point
            continue
        state = PropertyModel("nrtl", [c], vapour="virial").flash([1.0], T=t, VF=0.0)
        off["P"].append(state.pressure / reference["P"] - 1.0)
        off["D"].append(state.liquid.density / reference["D"] - 1.0)
        off["L"].append(evaporation(None, state) / (reference["V"] - reference["Hmolar"]) - 1.0)
        off["C"].append(state.liquid.heat_capacity / reference["Cpmolar"] - 1.0)
    assert len(off["P"]) > 90
    for key, median, ninth in (("P", 0.01, 0.05), ("D", 0.005, 0.03), ("L", 0.01, 0.04), ("C", 0.02, 0.08)):
        assert np.median(np.abs(off[key])) < median, key
        assert np.percentile(np.abs(off[key]), 90) < ninth, key
