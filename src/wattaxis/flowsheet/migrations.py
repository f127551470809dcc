"""Documents and edits of earlier versions, brought to today's. One step a version; the steps are run one after the other."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

#: The version that this program writes.
VERSION = 10


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
    own models of units. 5 to 6: tears, own unit sets. 6 to 7: solids, prices, turned symbols, tables on the sheet. What there was
    stays."""
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
}


def migrate(data: dict[str, Any]) -> dict[str, Any]:
    """A document of any earlier version as plain data of today's version; what is no document comes back as it is."""
    version = data.get("version")
    if type(version) is not int or version < 1:
        return data
    for number in range(version, VERSION):
        data = {**STEPS[number](data), "version": number + 1}
    return data


def migrate_edit(data: Any) -> Any:
    """An edit as earlier versions stored it, in today's form."""
    if not isinstance(data, dict):
        return data
    if data.get("kind") == "batch" and isinstance(data.get("edits"), list | tuple):
        return {**data, "edits": [migrate_edit(part) for part in data["edits"]]}
    if data.get("kind") == "add_component":
        return {**data, "component": _standing(data.get("component"))}
    if data.get("kind") == "set_pair" and "pair" in data:
        pair = data["pair"]
        rest = {key: value for key, value in data.items() if key != "pair"}
        if pair is None:
            return rest
        return {**rest, "values": {"kij": pair.get("kij")}, "source": pair.get("source", "typed in")} if isinstance(pair, dict) else data
    return data
