"""Fluids with solids in them, parted and put together again without a change of temperature or phases."""

from __future__ import annotations

import numpy as np

from wattaxis.properties.state import State, Vector
from wattaxis.unitops.base import Field, Finding, ResultValue, StreamState


def parts_of(stream: StreamState) -> tuple[Vector, Vector, Vector]:
    """Component flows (mol/s) of vapour, liquids and solids in a stream; together they are its flows."""
    state = stream.state
    vapour = stream.flow * state.vapour_share * state.vapour_fractions if state.vapour_share > 0.0 else np.zeros_like(state.fractions)
    solids = stream.flow * state.model.solids_of(state.fractions)
    return vapour, (stream.flows - vapour - solids).clip(min=0.0), solids


def liquid_with(state: State, liquid: Vector, solids: Vector) -> StreamState:
    """Liquid and solids (mol/s) of a state together; of two liquids both come in their proportion. Nothing at all keeps the composition."""
    total = float(liquid.sum() + solids.sum())
    beside = state.part("liquid")
    if total <= 0.0:
        return StreamState(0.0, beside)
    x = beside.liquid_fractions if liquid.sum() <= 0.0 or beside.two_liquids else liquid / liquid.sum()
    made = State(
        state.model, state.temperature, state.pressure, beside.light_fraction, (liquid + solids) / total, x, beside.vapour_fractions,
        beside.two_liquids, 0.0, beside.second_liquid_fractions,
    )  # fmt: skip
    made.root = beside.root
    return StreamState(total, made)


def mass_of(flows: Vector, state: State) -> float:
    """kg/s of component flows (mol/s)."""
    return float(flows @ state.model.molar_masses)


def moisture_left(wanted: float, liquid: Vector, solids: Vector, state: State) -> tuple[float, list[Finding]]:
    """Share of the liquid that stays with the solids so that they hold ``wanted`` (kg of liquid a kg of both), and what is to be said of that."""
    mass, dry = mass_of(liquid, state), mass_of(solids, state)
    if dry <= 0.0:
        return 0.0, [Finding("caution", "", "No solids enter, so there is nothing to hold moisture.", "Give the feed a solid component.")]
    keep = dry * wanted / (1.0 - wanted)
    if keep <= mass:
        return keep / mass if mass > 0.0 else 0.0, []
    has = mass / (mass + dry)
    text = f"The solids come with {100 * has:.3g} % of liquid by mass, less than the {100 * wanted:.3g} % that should stay: all of it stays."
    return 1.0, [Finding("caution", "", text, "Give a lower moisture.", "moisture")]


MOISTURE = Field("moisture", "Moisture left", "fraction", "liquid in what leaves with the solids, by mass")


def moisture_value(product: StreamState) -> ResultValue:
    """The liquid in a product by mass of it all."""
    _, liquid, _ = parts_of(product)
    return ResultValue("moisture", "Moisture left", "fraction", mass_of(liquid, product.state) / product.mass_flow if product.flow > 0.0 else 0.0)
