"""What the page needs to know of the core once: unit types, kinds, unit sets, models, the component bank."""

from dataclasses import asdict
from functools import lru_cache
from typing import Any

from wattaxis.flowsheet.chemistry import GAS_HEAT_CAPACITY, OWN_CURVES
from wattaxis.flowsheet.document import own_shapes
from wattaxis.properties import layout, model_kinds
from wattaxis.properties.diagrams.chart import SOLID_HEAT_CAPACITY
from wattaxis.properties.fitting import DATA_KINDS
from wattaxis.properties.vapour import VAPOURS
from wattaxis.quantities import KINDS, UNIT_SETS
from wattaxis.quantities.quantity import linear
from wattaxis.solving.pins import STREAM_VALUES
from wattaxis.substances import Component, HeatCapacity, Solid, VapourPressure, gibbs_energy_of_formation
from wattaxis.substances.curves import CURVES, TemperatureCurve, component_curve
from wattaxis.substances.estimates import joback_groups
from wattaxis.unitops import Choice, UnitOperation, unit_types
from wattaxis.unitops.composition import BASIS_TITLES

_CONSTANTS = (
    ("MW", "Molar mass", "molar_mass", "molar_mass"),
    ("Tc", "Critical temperature", "critical_temperature", "temperature"),
    ("Pc", "Critical pressure", "critical_pressure", "pressure"),
    ("omega", "Acentric factor", "acentric_factor", "number"),
    ("Tb", "Normal boiling point", "boiling_point", "temperature"),
    ("Tm", "Melting point", "melting_point", "temperature"),
    ("Hf", "Enthalpy of formation, gas", "formation_enthalpy", "molar_enthalpy"),
    ("S0", "Entropy, gas, 298.15 K", "entropy", "molar_entropy"),
)


_OF_SOLIDS = (
    ("MW", "Molar mass", "molar_mass", "molar_mass"),
    ("rho", "Density", "density", "density"),
    ("Tm", "Melting point", "melting_point", "temperature"),
    ("Hf", "Enthalpy of formation, crystal", "formation_enthalpy", "molar_enthalpy"),
    ("S0", "Entropy, crystal, 298.15 K", "entropy", "molar_entropy"),
)


def _beside(code: int) -> str:
    return "vapour" if code >= layout.ACTIVITY else "translated" if code in (layout.CUBIC, layout.PREDICTIVE) else ""


@lru_cache(maxsize=1)
def catalogue() -> dict[str, Any]:
    """The whole catalogue as plain data."""
    kinds = {}
    for kind in KINDS.values():
        factors = [(unit, *linear(unit, difference=kind.difference)) for unit in kind.units]
        kinds[kind.key] = {"title": kind.title, "units": [{"name": u, "factor": f, "offset": o} for u, f, o in factors]}
    return {
        "unit_types": [_unit_type(operation) for operation in unit_types().values()],
        "kinds": kinds,
        "unit_sets": {name: {k.key: chosen.get(k.key, k.units[0]) for k in KINDS.values()} for name, chosen in UNIT_SETS.items()},
        "models": [{**asdict(kind.info), "beside": _beside(kind.code)} for kind in model_kinds().values()],
        "vapours": VAPOURS,
        "stream_values": STREAM_VALUES,
        "bases": dict(BASIS_TITLES),
        "joback_groups": {number: group.name for number, group in joback_groups().items() if None not in group.values},
        "data_kinds": [
            {
                "key": key,
                "title": kind.title,
                "alone": kind.alone,
                "reacting": kind.reacting,
                "rare": list(kind.rare),
                "columns": [{"key": name, **asdict(column), "needed": name in kind.needed} for name, column in kind.columns.items()],
            }
            for key, kind in DATA_KINDS.items()
        ],
    }


def _unit_type(operation: Any) -> dict[str, Any]:
    return {
        "type": operation.type,
        "title": operation.title,
        "symbol": operation.symbol,
        "letter": operation.letter,
        "family": operation.family,
        "also": list(operation.also),
        "theory": operation.theory,
        "ports": [vars(p) for p in operation.ports],
        "fields": [vars(f) for f in operation.fields],
        "choices": [_choice(operation, c) for c in operation.choices],
    }


def _choice(operation: UnitOperation, choice: Choice) -> dict[str, Any]:
    return {
        "title": choice.title,
        "fields": list(choice.fields),
        "count": choice.count,
        "assumed": choice.assumed[0] if choice.assumed else None,
        "both": [list(pair) for pair in operation.together(choice)],
    }


def shapes(document: dict[str, Any]) -> dict[str, Any]:
    """Ports and choices of the units whose type has others with other givens."""
    types = {unit["tag"]: unit["type"] for unit in document.get("units", ())}
    return {
        tag: {"ports": [vars(p) for p in ports], "choices": [_choice(unit_types()[types[tag]], c) for c in choices]}
        for tag, (ports, choices) in own_shapes(document).items()
    }


def curves_data(item: Component) -> list[dict[str, Any]]:
    """What is known of a component over temperature."""
    if isinstance(item, Solid):
        cp = item.crystal_heat_capacity
        return [{"name": SOLID_HEAT_CAPACITY, "source": cp.source, "low": cp.low, "high": cp.high, "estimated": False, "kind": ""}]
    boiling = item.vapour_pressure
    assert boiling is not None  # Component fills it in
    found = [_curve("vapour pressure", boiling, ""), _curve(GAS_HEAT_CAPACITY, item.heat_capacity, OWN_CURVES[GAS_HEAT_CAPACITY])]
    return found + [_curve(name, component_curve(item, name), kind) for name, kind in CURVES.items()]


def _curve(name: str, curve: VapourPressure | HeatCapacity | TemperatureCurve, kind: str) -> dict[str, Any]:
    estimated = "estimated" in curve.source
    return {"name": name, "source": curve.source, "low": curve.low, "high": curve.high, "estimated": estimated, "kind": kind}


def component_data(item: Component) -> dict[str, Any]:
    """A component of the bank with each constant and its source."""
    is_solid = isinstance(item, Solid)
    constants = [
        {"key": key, "title": title, "field": attribute, "value": getattr(item, attribute), "kind": kind, "source": item.sources.get(key, "")}
        for key, title, attribute, kind in (_OF_SOLIDS if is_solid else _CONSTANTS)
        if getattr(item, attribute) is not None
    ]
    free = gibbs_energy_of_formation(item)
    if free is not None:
        title = f"Gibbs energy of formation, {'crystal' if is_solid else 'gas'}"
        source = "from enthalpy and entropy, with the entropies of the elements (Cox, Wagman, Medvedev 1989)"
        constants.append({"key": "Gf", "title": title, "field": "", "value": free, "kind": "molar_enthalpy", "source": source})
    named = {"name": item.name, "cas": item.cas, "formula": item.formula, "synonyms": list(item.synonyms)}
    return {**named, "solid": is_solid, "constants": constants, "doubts": list(item.doubts)}
