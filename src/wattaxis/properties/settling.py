"""Which of two liquids sinks: by densities that are right where those of the property model are not."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel, State
    from wattaxis.properties.state import Vector


def settling_densities(model: PropertyModel, T: Vector, fractions: NDArray[np.float64], volumes: Vector) -> Vector:
    """kg/m3 of liquids at ``T`` (rows,) K with mole ``fractions`` (rows, components) and ``volumes`` (rows,) m3/mol by the model.

    An equation of state whose volumes are not shifted makes water up to a quarter too light, lighter than benzene: there each component has the
    density of its own liquid, and volumes add. Where the model has no volume the molar mass stands for it, so that some order is there.

    >>> from wattaxis import PropertyModel
    >>> model, x = PropertyModel("soave-redlich-kwong", ["water", "benzene"]), np.eye(2)
    >>> volumes = np.array([model.phase("liquid", 310.0, 1e5, row).molar_volume for row in x])
    >>> (x @ model.molar_masses / volumes).round(), settling_densities(model, np.full(2, 310.0), x, volumes).round()
    (array([749., 787.]), array([992., 861.]))
    """
    masses = fractions @ model.molar_masses
    if model.equation_of_state and not model.translated:
        volumes = np.zeros(len(T))
        log_T = np.log(T)
        for i in np.flatnonzero((fractions > 0.0).any(axis=0)):
            first, step, *logs = model.curves.table("liquid density")[i]
            density = np.exp(np.interp(log_T, first + step * np.arange(len(logs)), logs))
            volumes += fractions[:, i] * model.molar_masses[i] / density
    return np.asarray(masses / np.where(volumes > 0.0, volumes, 1e-3))


def settling_density(state: State) -> float:
    """The same of the liquid that a state is."""
    phase, T = state.phases[0], np.array([state.temperature])
    return float(settling_densities(state.model, T, phase.fractions[None], np.array([phase.molar_volume]))[0])
