"""Pair parameters estimated from the groups of the molecules, for pairs that nobody has measured. An estimate stays marked as one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np

from wattaxis.flowsheet.chemistry import Chemistry
from wattaxis.flowsheet.model import pair_table, resolve
from wattaxis.progress import reached
from wattaxis.properties.registry import model_infos
from wattaxis.substances.bank import ESTIMATED

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel
    from wattaxis.substances import Component

#: What an estimate is fitted to: activity coefficients of the group model at these liquid fractions and temperatures (K).
FRACTIONS, TEMPERATURES = (0.02, 0.2, 0.4, 0.6, 0.8, 0.98), (298.15, 333.15, 368.15)
ALPHA = 0.3


@dataclass
class Estimates:
    """Edits that give the estimated pairs, and a sentence for every pair that could not be estimated."""

    edits: list[dict[str, Any]] = field(default_factory=list)
    left_out: list[str] = field(default_factory=list)


def estimate_pairs(chemistry: Chemistry, *, alike: bool = False) -> Estimates:
    """Estimate every pair of the chosen model that is assumed zero, or with ``alike`` all of them, so that no measured one stands among estimates.

    Raises ValueError for a model without pair parameters.

    >>> from wattaxis import Document, edit
    >>> plant = edit(Document(), "set_model", model="nrtl")
    >>> for name, cas in (("2-octanol", "123-96-6"), ("butanone", "78-93-3")):
    ...     plant = edit(plant, "add_component", component={"id": name, "cas": cas})
    >>> [e["quality"] for e in estimate_pairs(plant.chemistry).edits]
    ['estimated']
    """
    info = model_infos()[chemistry.model]
    if not info.parameters:
        raise ValueError(f"{info.title} has no pair parameters to estimate.")
    parts = {item.id: resolve(item) for item in chemistry.components}
    found = Estimates()
    table = pair_table(chemistry)
    for number, row in enumerate(table):
        reached(number / len(table))
        dissolved = "ha" in row["values"]  # a Henry constant, which no activity coefficient replaces
        if dissolved or (row["quality"] != "assumed zero" and not alike):
            continue
        first, second = parts[row["first"]], parts[row["second"]]
        lacking = [c.id for c in (first, second) if not c.groups.get("dortmund")]
        if lacking:
            found.left_out.append(f"{first.id} / {second.id}: no groups are known for {' and '.join(lacking)}.")
            continue
        values = fitted_pair(chemistry.model, first, second)
        known = {"values": values, "source": ESTIMATED, "quality": "estimated"}
        found.edits.append({"kind": "set_pair", "first": first.id, "second": second.id, **known})
    return found


def fitted_pair(kind: str, first: Component, second: Component) -> dict[str, float]:
    """Values of a pair, least squares of ln gamma, or of ln bubble pressure for the cubic equations."""
    from scipy.optimize import least_squares

    from wattaxis.properties import PropertyModel

    groups = PropertyModel("unifac-dortmund", [first, second])
    names = _DIRECTED.get(kind, ("kij",))
    cubic = names == ("kij",)
    wanted = _bubble(groups) if cubic else _log_gammas(groups)
    scale = np.array([100.0 if name[0] == "b" else 1.0 for name in names])

    def gap(scaled: np.ndarray) -> np.ndarray:
        values = dict(zip(names, (float(v) for v in scaled * scale), strict=True)) | ({"alpha": ALPHA} if kind == "nrtl" else {})
        model = PropertyModel(kind, [first, second], {(first.id, second.id): values}, bank_pairs=False)
        return np.asarray((_bubble(model) if cubic else _log_gammas(model)) - wanted)

    start = np.full(len(names), 0.01)
    bounds = (-0.5, 0.5) if cubic else (-50.0, 50.0)
    best = least_squares(gap, start, bounds=bounds, xtol=1e-10).x * scale
    fitted = {name: float(f"{value:.5g}") for name, value in zip(names, best, strict=True)}
    return fitted | ({"alpha": ALPHA} if kind == "nrtl" else {})


#: Which values are fitted; a and b together follow the temperature.
_DIRECTED: dict[str, Sequence[str]] = dict.fromkeys(("nrtl", "wilson", "uniquac", "margules"), ("a12", "a21", "b12", "b21")) | {
    "van-laar": ("a12", "a21")
}


def _log_gammas(model: PropertyModel) -> np.ndarray:
    rows = [np.log(model.activity_coefficients(t, 1e5, [x, 1.0 - x])) for t in TEMPERATURES for x in FRACTIONS]
    return np.concatenate(rows)


def _bubble(model: PropertyModel) -> np.ndarray:
    """ln P of homogeneous liquids on the verge of boiling: sum x_i phi_i(liquid) P over an ideal vapour, at low pressure."""
    pressure = 1e3
    rows = []
    for t in TEMPERATURES:
        for x in FRACTIONS[1:-1]:
            liquid = model.phase("liquid", t, pressure, [x, 1.0 - x])
            rows.append(float(np.log(liquid.fractions @ liquid.fugacity_coefficients)))
    return np.array(rows)
