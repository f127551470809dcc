"""What kinds of quantity there are, which units serve them, and the range in which a typed value is believed."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Kind:
    """One kind of quantity.

    ``si`` lists the accepted dimensions by an SI unit each, the first being the one used inside. ``low`` and ``high`` bound what
    may be typed (in that SI unit); ``low_open`` says that the lower bound itself is excluded.
    """

    key: str
    title: str
    si: tuple[str, ...]
    units: tuple[str, ...]
    low: float = float("-inf")
    high: float = 1e15
    low_open: bool = False
    difference: bool = False


_KINDS = (
    Kind("temperature", "temperature", ("K",), ("degC", "K", "degF", "degR"), 0.0, 6000.0, low_open=True),
    Kind("temperature_difference", "temperature difference", ("K",), ("K", "degC", "degF"), -6000.0, 6000.0, difference=True),
    Kind(
        "pressure",
        "pressure",
        ("Pa",),
        ("bar", "barg", "kPa", "MPa", "Pa", "mbar", "atm", "psi", "psig", "mmHg", "inHg", "kgf/cm2"),
        0.0,
        1e10,
        low_open=True,
    ),
    Kind("pressure_difference", "pressure difference", ("Pa",), ("bar", "mbar", "kPa", "psi", "Pa", "mmH2O", "inH2O"), -1e10, 1e10, difference=True),
    Kind("fraction", "fraction", ("",), ("", "%", "ppm"), 0.0, 1.0),
    Kind("share", "fraction or share", ("",), ("", "%", "ppm"), 0.0, 1e6),
    Kind("flow", "flow", ("mol/s", "kg/s"), ("kg/h", "t/h", "kg/s", "kmol/h", "mol/s", "Nm3/h", "MMscf/d", "SCFM", "lb/h", "lbmol/h"), 0.0, 1e9),
    Kind("mole_flow", "mole flow", ("mol/s",), ("kmol/h", "mol/s", "Nm3/h", "lbmol/h", "MMscf/d"), 0.0, 1e9),
    Kind("mass_flow", "mass flow", ("kg/s",), ("kg/h", "t/h", "kg/s", "lb/h"), 0.0, 1e9),
    Kind("volume_flow", "volume flow", ("m3/s",), ("m3/h", "L/min", "m3/s", "ft3/h", "gpm"), 0.0, 1e9),
    Kind("power", "heat flow or power", ("W",), ("kW", "MW", "W", "MJ/h", "GJ/h", "kcal/h", "Gcal/h", "Btu/h", "MMBtu/h", "hp", "TR"), -1e13, 1e13),
    Kind("conductance", "heat conductance", ("W/K",), ("kW/K", "W/K", "kcal/h/K", "Btu/h/degR"), 0.0, 1e12),
    Kind("molar_enthalpy", "molar enthalpy", ("J/mol",), ("kJ/mol", "J/mol", "MJ/kmol", "kcal/mol", "Btu/lbmol"), -1e9, 1e9),
    Kind("molar_entropy", "molar entropy", ("J/mol/K",), ("J/mol/K", "kJ/kmol/K", "cal/mol/K", "Btu/lbmol/degR"), -1e9, 1e9),
    Kind("enthalpy", "enthalpy", ("J/mol", "J/kg"), ("kJ/mol", "J/mol", "MJ/kmol", "kcal/mol", "kJ/kg", "J/kg", "kcal/kg", "Btu/lb"), -1e9, 1e9),
    Kind("entropy", "entropy", ("J/mol/K", "J/kg/K"), ("J/mol/K", "kJ/kmol/K", "cal/mol/K", "kJ/kg/K", "J/kg/K", "kcal/kg/K"), -1e9, 1e9),
    Kind("head", "head", ("J/kg", "m"), ("kJ/kg", "J/kg", "m", "ft", "Btu/lb"), 0.0, 1e8),
    Kind("molar_mass", "molar mass", ("kg/mol",), ("g/mol", "kg/kmol", "kg/mol", "lb/lbmol"), 0.0, 1e3, low_open=True),
    Kind("molar_volume", "molar volume", ("m3/mol",), ("L/mol", "m3/mol", "m3/kmol", "ft3/lbmol"), 0.0, 1e9),
    Kind(
        "molar_concentration",
        "molar concentration",
        ("mol/m3",),
        ("mol/L", "mol/m3", "mmol/L", "kmol/m3", "mol/cm3", "lbmol/ft3"),
        0.0,
        1e6,
    ),
    Kind("density", "density", ("kg/m3",), ("kg/m3", "g/L", "lb/ft3"), 0.0, 1e6),
    Kind("viscosity", "viscosity", ("Pa*s",), ("mPa*s", "Pa*s", "cP"), 0.0, 1e9),
    Kind("conductivity", "thermal conductivity", ("W/m/K",), ("W/m/K", "mW/m/K", "Btu/h/ft/degR"), 0.0, 1e6),
    Kind("weir_load", "weir load", ("m2/s",), ("m3/h/m", "m2/s", "ft3/h/ft"), 0.0, 1e6),
    Kind("surface_tension", "surface tension", ("N/m",), ("mN/m", "N/m"), 0.0, 1e3),
    Kind("flow_coefficient", "flow coefficient", ("Kv",), ("Kv", "Cv"), 0.0, 1e7, low_open=True),
    Kind("length", "length", ("m",), ("m", "mm", "in", "ft", "km"), 0.0, 1e7),
    Kind("height", "height", ("m",), ("m", "ft"), -1e4, 1e4),
    Kind("area", "area", ("m2",), ("m2", "ft2"), 0.0, 1e9),
    Kind("volume", "volume", ("m3",), ("m3", "L", "ft3", "gal"), 0.0, 1e9),
    Kind("time", "time", ("s",), ("min", "s", "h", "d"), 0.0, 1e12),
    Kind("mass", "mass", ("kg",), ("kg", "t", "lb"), 0.0, 1e12),
    Kind("velocity", "velocity", ("m/s",), ("m/s", "ft/s"), -1e6, 1e6),
    Kind("heat_transfer_coefficient", "heat transfer coefficient", ("W/m2/K",), ("W/m2/K", "kcal/h/m2/K", "Btu/h/ft2/degR"), 0.0, 1e8),
    Kind("heat_transfer_resistance", "heat transfer resistance", ("m2*K/W",), ("m2*K/W", "h*m2*K/kcal", "h*ft2*degR/Btu"), 0.0, 1e6),
    Kind("reaction_rate", "reaction rate", ("mol/m3/s",), ("kmol/m3/h", "mol/m3/s", "mol/L/s", "lbmol/ft3/h"), -1e15, 1e15),
    Kind("price", "price", ("EUR/kg",), ("EUR/t", "EUR/kg", "EUR/lb"), -1e9, 1e9),
    Kind("money_flow", "money flow", ("EUR/s",), ("EUR/h", "EUR/d", "EUR/yr", "EUR/s"), -1e15, 1e15),
    Kind("number", "number", ("",), ("",), -1e9, 1e9),
    Kind("count", "count", ("",), ("",), 0.0, 1e6),
    # Of what follows one another, such as stages: a larger plant has no more of it.
    Kind("ordinal", "number in series", ("",), ("",), 0.0, 1e6),
)
KINDS: dict[str, Kind] = {kind.key: kind for kind in _KINDS}


def shown_as(kind: str, si: str) -> str | None:
    """The kind by which values of a ``kind`` in an SI unit are shown: a flow is one by moles or by mass. None where no kind has that unit alone.

    >>> shown_as("flow", "kg/s"), shown_as("power", "W"), shown_as("enthalpy", "J/kg")
    ('mass_flow', 'power', None)
    """
    if len(KINDS[kind].si) == 1:
        return kind
    return next((name for name, other in KINDS.items() if other.si == (si,)), None)


#: Named sets of display units, one unit per kind; kinds that a set leaves out are shown in their first unit.
UNIT_SETS: dict[str, dict[str, str]] = {
    "Metric": {"flow": "kg/h"},
    "SI": {
        "temperature": "K", "pressure": "Pa", "pressure_difference": "Pa", "flow": "kg/s", "mole_flow": "mol/s", "mass_flow": "kg/s",
        "volume_flow": "m3/s", "power": "W", "conductance": "W/K", "time": "s",
        "molar_enthalpy": "J/mol", "molar_mass": "kg/mol", "molar_volume": "m3/mol",
        "viscosity": "Pa*s", "surface_tension": "N/m", "weir_load": "m2/s", "reaction_rate": "mol/m3/s", "molar_concentration": "mol/m3",
    },
    "US customary": {
        "temperature": "degF", "temperature_difference": "degF", "pressure": "psi", "pressure_difference": "psi", "flow": "lb/h",
        "mole_flow": "lbmol/h", "mass_flow": "lb/h", "volume_flow": "ft3/h", "power": "MMBtu/h", "molar_enthalpy": "Btu/lbmol",
        "molar_entropy": "Btu/lbmol/degR", "reaction_rate": "lbmol/ft3/h", "area": "ft2",
        "molar_mass": "lb/lbmol", "molar_volume": "ft3/lbmol", "molar_concentration": "lbmol/ft3", "density": "lb/ft3", "conductance": "Btu/h/degR",
        "conductivity": "Btu/h/ft/degR", "flow_coefficient": "Cv",
        "weir_load": "ft3/h/ft",
        "length": "ft", "height": "ft", "volume": "ft3", "mass": "lb", "velocity": "ft/s", "heat_transfer_coefficient": "Btu/h/ft2/degR",
    },
}  # fmt: skip
