"""Documents and edits of earlier versions, brought to today's. One step a version; the steps are run one after the other."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

#: The version that this program writes.
VERSION = 13


def _pairs_by_model(data: dict[str, Any]) -> dict[str, Any]:
    """1 to 2: a pair parameter says which model it belongs to and names its values."""
    chemistry = data.get("chemistry")
    if not isinstance(chemistry, dict) or not isinstance(chemistry.get("pairs"), list | tuple):
        return data
    chosen = chemistry.get("model", "peng-robinson")
    model = chosen if chosen != "ideal" else "peng-robinson"
    pairs = [{**_named(pair), "model": model} if isinstance(pair, dict) and "kij" in pair else pair for pair in chemistry["pairs"]]
    return {**data, "chemistry": {**chemistry, "pairs": pairs}}


def _named(pair: dict[str, Any]) -> dict[str, Any]:
    return {**{key: value for key, value in pair.items() if key != "kij"}, "values": {"kij": pair["kij"]}}


def _unchanged(data: dict[str, Any]) -> dict[str, Any]:
    """2 to 3: a chemistry may hold measured data and fits. 3 to 4: a document may hold aims. 4 to 5: notes, areas, a real vapour,
    own models of units. 5 to 6: tears, own unit sets. 6 to 7: solids, prices, turned symbols, tables on the sheet. 11 to 12: reactions.
    What there was stays."""
    return data


def _stands_for(data: dict[str, Any]) -> dict[str, Any]:
    """7 to 8: what a component stands for is said of any component. New: curves of machines and components, feeds by enthalpy and entropy,
    weights of measured points."""
    chemistry = data.get("chemistry")
    if not isinstance(chemistry, dict) or not isinstance(chemistry.get("components"), list | tuple):
        return data
    return {**data, "chemistry": {**chemistry, "components": [_standing(item) for item in chemistry["components"]]}}


def _standing(item: Any) -> Any:
    for part in ("own", "own_solid"):
        if isinstance(item, dict) and isinstance(item.get(part), dict) and "stands_for" in item[part]:
            own = {key: value for key, value in item[part].items() if key != "stands_for"}
            item = {**item, part: own, "stands_for": item[part]["stands_for"]}
    return item


def _volumes_as_they_were(data: dict[str, Any]) -> dict[str, Any]:
    """From version 9 on volumes of cubic equations are shifted where nothing is said of them; before, they were not."""
    chemistry = data.get("chemistry", {})
    return {**data, "chemistry": {"translated": False, **chemistry}} if isinstance(chemistry, dict) else data


def _curves_as_tables(data: dict[str, Any]) -> dict[str, Any]:
    """10 to 11: the curve of a machine is a table whose rows have an identity, and each cell its unit; so are the paths to its cells."""
    units, aims = data.get("units"), data.get("aims")
    changed = {**data, "units": [_curved_unit(unit) for unit in units]} if isinstance(units, list | tuple) else data
    return {**changed, "aims": [_curved_aim(aim) for aim in aims]} if isinstance(aims, list | tuple) else changed


def _curved_unit(unit: Any) -> Any:
    if not isinstance(unit, dict) or not isinstance(unit.get("spec"), dict):
        return unit
    return {**unit, "spec": {key: _table(value) if key == "curve" else value for key, value in unit["spec"].items()}}


def _table(curve: Any) -> Any:
    points = curve.get("rows", ()) if isinstance(curve, dict) else None
    if not isinstance(points, list | tuple) or any(isinstance(row, dict) for row in points):
        return curve  # in today's form, or none at all
    names, standard = ("flow", "head", "efficiency"), {"flow": "m3/h", "head": "m", "efficiency": "%"}
    units = {name: curve.get(f"{name}_unit", standard[name]) for name in names}
    rows = []
    for number, row in enumerate(points, 1):
        cells = zip(names, row, strict=False) if isinstance(row, list | tuple) else ()
        rows.append({"id": str(number), "cells": {name: {"value": cell, "unit": units[name]} for name, cell in cells if cell is not None}})
    return {"rows": rows}


def _curved_aim(aim: Any) -> Any:
    free = aim.get("free") if isinstance(aim, dict) else None
    if not isinstance(free, dict) or not isinstance(free.get("field"), str):
        return aim
    return {**aim, "free": {**free, "field": re.sub(r"^curve\[(\w+)\.(\w+)\]$", r"curve[\1].\2", free["field"])}}


def _conversions_of_sets(data: dict[str, Any]) -> dict[str, Any]:
    """12 to 13: a conversion reactor takes its reactions from a set of the plant, and has a row with a conversion for each."""
    units = data.get("units")
    if not isinstance(units, list | tuple):
        return data
    chemistry = data["chemistry"] if isinstance(data.get("chemistry"), dict) else {}
    sets = list(chemistry["reactions"]) if isinstance(chemistry.get("reactions"), list | tuple) else []
    taken = {of.get("name") for of in sets if isinstance(of, dict)}
    tags, changed = [], []
    for unit in units:
        new, of = _with_set(unit, taken)
        changed.append(new)
        sets += [] if of is None else [of]
        taken |= set() if of is None else {of["name"]}
        tags += [] if new is unit else [unit.get("tag")]
    if not tags:
        return data
    spoken = {key: [_with_formula(item, tags) for item in data[key]] for key in ("pins", "aims") if isinstance(data.get(key), list | tuple)}
    return {**data, **spoken, "units": changed, "chemistry": {**chemistry, "reactions": sets}}


#: What a conversion reactor held itself, and the name that its one reaction and its one row have now.
_OLD_KEYS, _ONLY, _ROW = ("stoichiometry", "base", "conversion"), "R1", "1"


def _with_set(unit: Any, taken: Any = ()) -> tuple[Any, dict[str, Any] | None]:
    """A unit in today's form and the reaction set that it names, None where it brings none."""
    spec = unit.get("spec") if isinstance(unit, dict) and unit.get("type") == "conversion-reactor" else None
    if not isinstance(spec, dict) or not set(_OLD_KEYS) & set(spec):
        return unit, None
    rest = {key: value for key, value in spec.items() if key not in _OLD_KEYS}
    of = _set_named(_set_of(unit.get("tag"), taken), spec.get("stoichiometry"))
    cells = {"component": spec.get("base"), "conversion": spec.get("conversion")}
    kept = {key: value for key, value in cells.items() if value is not None}
    if kept or of is not None:
        rest["conversions"] = {"rows": [{"id": _ROW, "cells": {"reaction": _ONLY, **kept}}]}
    if of is not None:
        rest["reactions"] = of["name"]
    return {**unit, "spec": rest}, of


def _set_of(tag: Any, taken: Any = ()) -> str:
    name, number = f"Reaction of {tag}", 2
    while name in taken:
        name, number = f"Reaction of {tag}, {number}", number + 1
    return name


def _set_named(name: str, typed: Any) -> dict[str, Any] | None:
    """A set of one reaction of stoichiometric numbers as they were typed; None where they use nothing up."""
    values = typed.get("values") if isinstance(typed, dict) else None
    numbers = {key: _plain_number(value) for key, value in values.items()} if isinstance(values, dict) else {}
    if not any(number < 0.0 for number in numbers.values()):
        return None
    return {"name": name, "reactions": [{"name": _ONLY, "numbers": numbers}]}


def _plain_number(value: Any) -> float:
    """A stoichiometric number, which had no unit, typed in any form that a quantity has."""
    typed: Any = value.get("value") if isinstance(value, dict) else value
    try:
        return float(typed)
    except (TypeError, ValueError):
        return 0.0


def _with_formula(item: Any, tags: list[Any]) -> Any:
    """A pin or an aim whose formula or freed value speaks of such a reactor."""
    if not isinstance(item, dict):
        return item
    changed = dict(item)
    if isinstance(item.get("formula"), str):
        for tag in tags:
            before = rf'(?<![\w"/-])("?{re.escape(str(tag))}"?)\.'
            of_reaction = re.sub(before + r"(extent|heat_of_reaction)\b(?!\[)", rf"\1.\2[{_ONLY}]", changed["formula"])
            changed["formula"] = re.sub(before + r"conversion_(\w+)", r"\1.conversion_of[\2]", of_reaction)
    free = item.get("free")
    if isinstance(free, dict) and free.get("unit") in tags and free.get("field") == "conversion":
        changed["free"] = {**free, "field": f"conversions[{_ROW}].conversion"}
    return changed


def _edited_reactor(data: dict[str, Any]) -> dict[str, Any]:
    """An edit that sets the stoichiometric numbers that a conversion reactor held itself."""
    if "stoichiometry" not in data["values"]:
        return data
    rest = {key: value for key, value in data["values"].items() if key != "stoichiometry"}
    of = _set_named(_set_of(data.get("unit")), data["values"]["stoichiometry"])
    edits = [{**data, "values": rest}] if rest or of is None else []
    if of is not None:
        edits.append({"kind": "set_reactions", "name": of["name"], "reactions": of})
    return edits[0] if len(edits) == 1 else {"kind": "batch", "edits": edits}


def todays_path(kind: str, path: str) -> str:
    """The path to a value of a unit of a kind, as earlier versions of the program wrote it in the history.

    >>> todays_path("conversion-reactor", "conversion"), todays_path("stirred-tank", "conversion")
    ('conversions[1].conversion', 'conversion')
    """
    renamed = {"base": f"conversions[{_ROW}].component", "conversion": f"conversions[{_ROW}].conversion"}
    return renamed.get(path, path) if kind == "conversion-reactor" else path


#: version -> the step to the next one
STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {
    1: _pairs_by_model,
    2: _unchanged,
    3: _unchanged,
    4: _unchanged,
    5: _unchanged,
    6: _unchanged,
    7: _stands_for,
    8: _volumes_as_they_were,
    9: _unchanged,
    10: _curves_as_tables,
    11: _unchanged,
    12: _conversions_of_sets,
}


def migrate(data: dict[str, Any]) -> dict[str, Any]:
    """A document of any earlier version as plain data of today's version; what is no document comes back as it is."""
    version = data.get("version")
    if type(version) is not int or version < 1:
        return data
    for number in range(version, VERSION):
        data = {**STEPS[number](data), "version": number + 1}
    return data


def _piece_of_sets(piece: dict[str, Any]) -> dict[str, Any]:
    found = _conversions_of_sets({"units": piece.get("units"), "chemistry": {"reactions": piece.get("reactions", [])}})
    return {**piece, "units": found["units"], "reactions": found["chemistry"]["reactions"]}


def migrate_edit(data: Any) -> Any:
    """An edit as earlier versions stored it, in today's form."""
    if not isinstance(data, dict):
        return data
    if data.get("kind") == "batch" and isinstance(data.get("edits"), list | tuple):
        return {**data, "edits": [migrate_edit(part) for part in data["edits"]]}
    if data.get("kind") in ("add_unit", "insert_in_line"):
        unit, of = _with_set(_curved_unit(data.get("unit")))
        edit = {**data, "unit": unit}
        return edit if of is None else {"kind": "batch", "edits": [{"kind": "set_reactions", "name": of["name"], "reactions": of}, edit]}
    if data.get("kind") == "place_piece" and isinstance(data.get("piece"), dict):
        return {**data, "piece": _piece_of_sets(_curves_as_tables(data["piece"]))}
    if data.get("kind") == "set_values" and isinstance(data.get("values"), dict):
        curved = {**data["values"], "curve": _table(data["values"]["curve"])} if "curve" in data["values"] else data["values"]
        return _edited_reactor({**data, "values": curved})
    if data.get("kind") == "set_aim":
        return {**data, "aim": _curved_aim(data.get("aim"))}
    if data.get("kind") == "add_component":
        return {**data, "component": _standing(data.get("component"))}
    if data.get("kind") == "set_pair" and "pair" in data:
        pair = data["pair"]
        rest = {key: value for key, value in data.items() if key != "pair"}
        if pair is None:
            return rest
        return {**rest, "values": {"kij": pair.get("kij")}, "source": pair.get("source", "typed in")} if isinstance(pair, dict) else data
    return data
