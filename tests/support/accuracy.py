"""Deviations of the property models over the whole bank, for the tests and for the report in docs/accuracy.md."""

from collections.abc import Callable, Iterator

import numpy as np
from CoolProp.CoolProp import PropsSI, get_fluid_param_string, get_global_param_string

from wattaxis import Component, FlashError, PropertyModel, component
from wattaxis.substances.bank import bank_data
from wattaxis.substances.curves import component_curve

ATMOSPHERE = 101325.0
#: Models with what goes with them where liquids count.
MODELS = {
    "ideal": {},
    "nrtl": {"vapour": "virial"},
    "peng-robinson": {"translated": True},
    "soave-redlich-kwong": {"translated": True},
}


def substances() -> Iterator[Component]:
    for entry in bank_data()["substances"]:
        yield component(entry["cas"])


def boiling_points(kind: str) -> dict[str, float]:
    """K by which each substance of the bank boils too hot at one atmosphere, by name."""
    off = {}
    for c in substances():
        if c.boiling_point is None or not 0.3 < c.boiling_point / c.critical_temperature < 0.98:
            continue
        try:
            model = PropertyModel(kind, [c])
        except ValueError:  # no groups
            continue
        off[c.name] = model.flash([1.0], P=ATMOSPHERE, VF=0.0).temperature - c.boiling_point
    return off


def evaporation(state) -> float:
    return state.vapour.enthalpy - state.liquid.enthalpy


#: What is compared, by the name of the curve.
VALUES: dict[str, Callable] = {
    "liquid density": lambda state: state.liquid.density,
    "liquid heat capacity": lambda state: state.liquid.heat_capacity,
    "heat of vaporisation": evaporation,
}


def deviations(kind: str, curve_name: str) -> dict[str, float]:
    """Median relative deviation of each substance with a measured curve, over its range up to 0.8 of the critical temperature, by name."""
    found = {}
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
            off.append(abs(VALUES[curve_name](state) / curve.at(float(t)) - 1.0))
        if off:
            found[c.name] = float(np.median(off))
    return found


def against_reference(reduced: float = 0.65) -> dict[str, dict[str, float]]:
    """By property and substance the relative deviation of NRTL with a virial vapour from the reference equations of CoolProp."""
    off: dict[str, dict[str, float]] = {"vapour pressure": {}, **{name: {} for name in VALUES}}
    known = {e["cas"] for e in bank_data()["substances"]}
    for name in get_global_param_string("FluidsList").split(","):
        cas = get_fluid_param_string(name, "CAS")
        if cas not in known:
            continue
        c = component(cas)
        t = reduced * c.critical_temperature
        try:
            reference = {key: PropsSI(key, "T", t, "Q", 0, name) for key in ("P", "D", "Hmolar", "Cpmolar")}
            heat = PropsSI("Hmolar", "T", t, "Q", 1, name) - reference["Hmolar"]
        except ValueError:  # below the triple point
            continue
        state = PropertyModel("nrtl", [c], vapour="virial").flash([1.0], T=t, VF=0.0)
        off["vapour pressure"][c.name] = state.pressure / reference["P"] - 1.0
        for key, wanted in (("liquid density", reference["D"]), ("liquid heat capacity", reference["Cpmolar"]), ("heat of vaporisation", heat)):
            off[key][c.name] = VALUES[key](state) / wanted - 1.0
    return off
