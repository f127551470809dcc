"""Reactors with rates: milliseconds at the median, beside the plain balances integrated by SciPy in the same run. One table."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import minimize

from wattaxis import PropertyModel
from wattaxis.flowsheet import Chemistry, reaction_sets
from wattaxis.reactions import ChemicalEquilibrium
from wattaxis.reactions.thermochemistry import StandardStates
from wattaxis.unitops import StreamState, unit_types
from wattaxis.unitops.base import Givens

PARTS = ("methane", "ethane", "propane", "n-butane", "isobutane", "hydrogen", "water", "nitrogen", "oxygen", "carbon dioxide", "carbon monoxide",
         "benzene", "toluene", "styrene", "ethylbenzene", "ethylene", "propylene", "ammonia", "methanol", "ethanol")  # fmt: skip
NUMBERS = (
    {"ethane": -1, "ethene": 1, "hydrogen": 1},
    {"propane": -1, "propene": 1, "hydrogen": 1},
    {"propane": -1, "ethene": 1, "methane": 1},
    {"ethylbenzene": -1, "styrene": 1, "hydrogen": 1},
    {"n-butane": -1, "isobutane": 1},
)
T, P, FLOW, VOLUME = 950.0, 2e5, 50.0, 5.0


def timed(work: Callable[[], object], runs: int = 9) -> float:
    """Median milliseconds of some runs, the first of them left out."""
    work()
    found = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return 1e3 * statistics.median(found)


def unit_work(kind: str, spec: dict[str, str], model: PropertyModel, backward: str | None) -> Callable[[], object]:
    """One calculation of a reactor with all five reactions, as the first of its plant."""
    laws = [{"orders": {next(iter(n)): 1}, "value": 0.3, "unit": "1/s", "energy": "80 kJ/mol", "reference": f"{T} K"} for n in NUMBERS]
    known = {name: model.components[model.index(name)].id for numbers in NUMBERS for name in numbers}
    made = [
        {"name": f"R{k}", "numbers": {known[name]: n for name, n in numbers.items()},
         "forward": {**law, "orders": {known[name]: order for name, order in law["orders"].items()}}, "backward": backward}
        for k, (numbers, law) in enumerate(zip(NUMBERS, laws, strict=True))
    ]  # fmt: skip
    sets = reaction_sets(Chemistry.model_validate({"reactions": [{"name": "Main", "reactions": made}]}))
    operation = unit_types()[kind]
    typed = operation.Spec.model_validate({"reactions": "Main", **spec})
    assumed = {name: quantity for name, (quantity, _) in operation.assumptions(typed).items()}
    inlet = StreamState(FLOW, model.flash(np.ones(len(PARTS)) / len(PARTS), T=T, P=P))
    givens = Givens(typed, operation.field_map(), assumed, reactions=sets)
    return lambda: operation.solve(givens, {"inlet": [inlet]}, model, frozenset({"outlet"}))


def plain(model: PropertyModel) -> Callable[[], object]:
    """The isothermal tube of an ideal gas, written out: dF/dV = nu r."""
    known = {name: model.index(name) for numbers in NUMBERS for name in numbers}
    nu = np.zeros((len(NUMBERS), len(PARTS)))
    for j, numbers in enumerate(NUMBERS):
        for name, n in numbers.items():
            nu[j, known[name]] = n
    first = np.array([known[next(iter(numbers))] for numbers in NUMBERS])

    def slope(_: float, flows: np.ndarray) -> np.ndarray:
        concentrations = flows / flows.sum() * P / (8.31446261815324 * T)
        return np.asarray((0.3 * concentrations[first]) @ nu)

    start = np.full(len(PARTS), FLOW / len(PARTS))
    return lambda: solve_ivp(slope, (0.0, VOLUME), start, "LSODA", rtol=1e-9, atol=1e-12)


def minimised(model: PropertyModel) -> tuple[Callable[[], Any], Callable[[np.ndarray], float]]:
    """The same least Gibbs energy of an ideal gas by a general optimiser over all amounts, from equal parts; and G/RT of amounts."""
    equilibrium = ChemicalEquilibrium(model)
    h, s = StandardStates(model.components).levels(np.asarray(T))
    level = (h / T - s) / 8.31446261815324 + np.log(P / 1e5)
    atoms, feed = equilibrium._atoms, np.ones(len(PARTS)) / len(PARTS)

    def gibbs(n: np.ndarray) -> tuple[float, np.ndarray]:
        slope = level + np.log(n / n.sum())
        return float(n @ slope), slope

    kept = {"type": "eq", "fun": lambda n: atoms @ (n - feed), "jac": lambda n: atoms}
    options = {"maxiter": 300, "ftol": 1e-9}
    search = lambda: minimize(gibbs, feed, jac=True, method="SLSQP", bounds=[(1e-12, None)] * len(feed), constraints=kept, options=options)  # noqa: E731
    return search, lambda n: gibbs(np.maximum(n, 1e-300))[0]


def main() -> None:
    """Print two tables."""
    ideal, cubic = (PropertyModel(kind, PARTS) for kind in ("ideal", "peng-robinson"))
    beside = timed(plain(ideal))
    size, tank = {"volume": f"{VOLUME} m3"}, {"volume": f"{VOLUME} m3"}
    rows = [
        ("tube, isothermal, ideal gas", unit_work("plug-flow-reactor", {**size, "heat": "isothermal"}, ideal, None)),
        ("tube, isothermal, Peng-Robinson", unit_work("plug-flow-reactor", {**size, "heat": "isothermal"}, cubic, None)),
        ("tube, adiabatic, reversible, Peng-Robinson", unit_work("plug-flow-reactor", size, cubic, "thermodynamics")),
        ("tank at a temperature, Peng-Robinson", unit_work("stirred-tank", {**tank, "outlet_temperature": f"{T} K"}, cubic, "thermodynamics")),
        ("tank, adiabatic, all its steady states, Peng-Robinson", unit_work("stirred-tank", {**tank, "duty": "0 kW"}, cubic, "thermodynamics")),
    ]
    print("| 5 reactions, 20 components | ms | times the plain balances |")
    print("|---|---|---|")
    print(f"| plain balances by SciPy, isothermal, ideal gas | {beside:.1f} | 1 |")
    for what, work in rows:
        measured = timed(work, 5)
        print(f"| {what} | {measured:.1f} | {measured / beside:.1f} |")
    feed = np.ones(len(PARTS))
    search, gibbs = minimised(ideal)
    other = timed(search)
    above = gibbs(search().x) - gibbs(ChemicalEquilibrium(ideal, phases="vapour").at(feed / feed.sum(), T, P))
    print(f"\nThe optimiser takes {other:.1f} ms and ends {above:.2g} above our G/RT.")
    print("\n| least Gibbs energy of 20 species | ms | times the optimiser |\n|---|---|---|")
    for name, model in (("ideal gas", ideal), ("cubic equation", cubic)):
        equilibrium = ChemicalEquilibrium(model, phases="vapour")
        took = timed(lambda equilibrium=equilibrium: equilibrium.at(feed, T, P))
        print(f"| {name} | {took:.1f} | {took / other:.1f} |")


if __name__ == "__main__":
    main()
