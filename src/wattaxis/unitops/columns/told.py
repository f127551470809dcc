"""What a column that was solved hands on and tells: products, heats, values, findings, profiles."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from wattaxis.columns import ColumnProduct, ColumnState, StagedColumn, Want
from wattaxis.columns.layout import BOTTOMS, DISTILLATE, NONE, OVERHEAD
from wattaxis.properties import FlashError
from wattaxis.properties.state import Vector
from wattaxis.unitops.base import EnergyState, Finding, Givens, ResultValue, StreamState, UnitFault, UnitResult
from wattaxis.unitops.columns.built import Built
from wattaxis.unitops.columns.inside import Sized, sized
from wattaxis.unitops.columns.names import CIRCULATING, CONDENSER_HEAT, INLET, ONCE_THROUGH, PRODUCTS, REBOILER_HEAT, draw_name, stripper_name
from wattaxis.unitops.columns.specified import measured
from wattaxis.unitops.columns.stepping import misplaced, steps
from wattaxis.unitops.profile import Profile, ProfilePort, column
from wattaxis.unitops.reaction.kinetic import doubts_of

#: Share of the mass of a liquid that a thermosyphon vaporises at most as a rule.
_THERMOSYPHON = 0.35
#: K below which water does not take the heat of a condenser.
COOL = 303.15


def told(build: Built, givens: Givens, staged: StagedColumn, state: ColumnState) -> UnitResult:
    """Products, heats, values, findings and profiles of a column that was solved. Raises UnitFault."""
    ports = ports_of(build)
    leaving = {ports[name]: _stream(build, state, product) for name, product in state.products.items()}
    energies, outside = heats(build, givens, state)
    values = _values(build, state)
    size = Sized() if givens.draft else sized(build, givens, state)
    findings = [*build.findings, *_findings(build, givens, state), *size.findings]
    profiles = () if givens.draft else (*_profiles(build, state, ports, size), *steps(build.model, state, build.ids))
    made = float(state.extents.sum(axis=0) @ kinetics.mass_made) if (kinetics := build.kinetics) is not None else 0.0
    values += [*(() if givens.draft else measured(build, staged, state)), *size.values]
    return UnitResult(leaving, outside, tuple(values), tuple(findings), profiles=profiles, energies=energies, hint=state, mass_made=made)


def on_the_way(build: Built, givens: Givens, staged: StagedColumn, wants: Sequence[Want]) -> UnitResult:
    """What a loop goes on with where its streams are not yet such that the column has a state: estimated products, boiling or dew.

    The heat is what closes the balance. Raises UnitFault where a product has no such state.
    """
    ports, at = ports_of(build), {p.name: p for p in staged.layout.products}
    leaving = {}
    for name, flows in staged.estimate(wants).items():
        liquid = at[name].phase == "liquid"
        try:
            state = build.whole.flash(build.spread(np.maximum(flows, 0.0)), P=float(staged.layout.P[at[name].stage]), VF=0.0 if liquid else 1.0)
        except FlashError as error:
            raise UnitFault(f"A product has no state: {error}", "Look at the property model and the pressures.") from error
        leaving[ports[name]] = StreamState(float(flows.sum()), state)
    heat = sum(stream.enthalpy_flow for stream in leaving.values()) - sum(feed.enthalpy_flow for feed in build.feeds)
    energies = {port: EnergyState("heat", 0.0) for port in (CONDENSER_HEAT, REBOILER_HEAT) if port in givens.connected and port not in givens.energy}
    return UnitResult(leaving, heat - (givens.power(REBOILER_HEAT) or 0.0), energies=energies, provisional=True)


def ports_of(build: Built) -> dict[str, str]:
    """Ports of the products by name."""
    draws = {draw_name(row): f"draw_{row.id}" for row in build.rows("draws")}
    return {
        **{name: port for port, name in PRODUCTS.items()},
        **draws,
        **{stripper_name(row): f"stripper_{row.id}" for row in build.rows("strippers")},
    }


def _stream(build: Built, state: ColumnState, product: ColumnProduct) -> StreamState:
    """A product: boiling or dew as it left its stage in equilibrium, else by its enthalpy. Raises UnitFault where the model finds no such state."""
    model, total, z, at = build.whole, float(product.flows.sum()), build.spread(product.flows), product.stage - 1
    vapour = product.phase == "vapour"
    colder = at == 0 and not vapour and build.subcooling > 0.0
    if model.fluid is model and state.light_shares[at] == 1.0 and not colder and build.in_equilibrium(at):
        other = build.spread((state.x if vapour else state.y)[at])
        return StreamState(total, model.saturated(z / total, product.T, product.P, vapour=vapour, other=other))
    try:
        return StreamState(total, model.flash(z, P=product.P, H=product.enthalpy_flow / total, guess=product.T))
    except FlashError as error:
        raise UnitFault(f"A product has no state: {error}", "Look at the property model and the pressures.") from error


def heats(build: Built, givens: Givens, state: ColumnState) -> tuple[dict[str, EnergyState], float]:
    """What heat streams carry, and what comes from outside (W)."""
    energies, outside = dict[str, EnergyState](), float(state.duties.sum() - state.losses.sum())
    last = build.stages - 1
    if build.condenser != NONE and CONDENSER_HEAT in givens.connected:
        below = float(state.T[min(1, last)])
        energies[CONDENSER_HEAT] = EnergyState("heat", -float(state.duties[0]), float(state.T[0]), below)
        outside -= float(state.duties[0])
    if build.reboiler and (REBOILER_HEAT in givens.energy or REBOILER_HEAT in givens.connected):
        outside -= float(state.duties[last])
        if REBOILER_HEAT not in givens.energy:
            energies[REBOILER_HEAT] = EnergyState("heat", float(state.duties[last]), float(state.T[max(last - 1, 0)]), float(state.T[last]))
    return energies, outside


def _values(build: Built, state: ColumnState) -> list[ResultValue]:
    products, found = state.products, []
    if build.condenser != NONE:
        found.append(ResultValue("reflux_ratio", "Reflux ratio", "number", state.reflux_ratio or 0.0))
        found.append(ResultValue("condenser_duty", "Heat added in the condenser", "power", float(state.duties[0])))
    if build.reboiler:
        found.append(ResultValue("boil_up_ratio", "Boil-up ratio", "number", state.boil_up_ratio))
        found.append(ResultValue("reboiler_duty", "Heat added in the reboiler", "power", float(state.duties[build.stages - 1])))
        if (share := _vaporised(build, state)) is not None:
            found.append(ResultValue("vaporised_share", "Share vaporised in the reboiler, by mass", "fraction", share))
    for key, name, title in (
        ("distillate_flow", DISTILLATE, "Distillate"), ("vapour_flow", OVERHEAD, "Overhead vapour"), ("bottoms_flow", BOTTOMS, "Bottoms")
    ):  # fmt: skip
        if name in products:
            found.append(ResultValue(key, title, "mole_flow", float(products[name].flows.sum())))
    found.append(ResultValue("top_temperature", "Temperature of the first stage", "temperature", float(state.T[0])))
    found.append(ResultValue("bottom_temperature", "Temperature of the last stage", "temperature", float(state.T[build.stages - 1])))
    top = np.sum([p.flows for name, p in products.items() if name in (DISTILLATE, OVERHEAD)], axis=0)
    fed = np.sum([p.flows for p in products.values()], axis=0)
    if state.losses.any():
        found.append(ResultValue("heat_lost", "Heat lost to the surroundings", "power", float(state.losses.sum())))
    kinetics = build.kinetics
    for number, reaction in enumerate(kinetics.set.reactions if kinetics is not None else ()):
        found.append(ResultValue("extent", f"Extent of {reaction.name}", "mole_flow", float(state.extents[:, number].sum())))
    if kinetics is not None:
        return found  # what is made has no share of what is fed
    found += [ResultValue("recovery", "Recovery at the top", "fraction", float(t / f), name) for name, t, f in zip(build.ids, top, fed, strict=True)]
    return found


def _findings(build: Built, givens: Givens, state: ColumnState) -> list[Finding]:
    found = []
    if build.condenser != NONE and state.duties[0] > 0.0:
        text = f"The condenser would have to be heated, by {state.duties[0] / 1e3:.4g} kW."
        found.append(Finding("caution", "", text, "Specify more reflux, or leave the condenser out.", "condenser"))
    elif build.condenser != NONE and state.T[0] < COOL:
        text = f"The condenser is at {state.T[0]:.5g} K: water does not take its heat, a refrigerant is needed."
        found.append(Finding("note", "", text, "Raise the pressure, or take the top as vapour.", "top_pressure"))
    boiled = float(state.duties[build.stages - 1])
    if build.reboiler and boiled < 0.0:
        text = f"The reboiler would have to be cooled, by {-boiled / 1e3:.4g} kW."
        found.append(Finding("caution", "", text, "Specify more boil-up, or leave the reboiler out.", "reboiler"))
    if (share := _vaporised(build, state)) is not None and share > _THERMOSYPHON:
        text = f"Of what passes the reboiler {100.0 * share:.3g} % become vapour, and a thermosyphon takes about a third of its mass as a rule."
        found.append(Finding("note", "", text, "Take a kettle, or let liquid circulate.", "reboiler"))
    fed = [at for (_, at), stream in zip(build.placed, build.feeds, strict=True) if stream.flow > 0.0]
    if len(fed) == 1 and len(state.products) == 2 and (why := misplaced(state, build.ids, fed[0])):
        found.append(Finding("note", "", why, "Give it another stage.", "feeds"))
    if (two := _two_liquids(state.light_shares)) and not givens.draft:
        found.append(Finding("note", "", two, "Trays with two liquids part less as a rule: give them a stage efficiency.", "efficiency"))
    if (kinetics := build.kinetics) is not None:
        found += doubts_of(kinetics, float(state.T.min()), float(state.T.max()))
    return found


def _vaporised(build: Built, state: ColumnState) -> float | None:
    """Share of the mass that passes the reboiler which becomes vapour, where it passes once or circulates."""
    if build.givens.option("reboiler") not in (ONCE_THROUGH, CIRCULATING):
        return None
    j, masses = build.stages - 1, build.model.molar_masses
    risen, left = float(state.vapour[j] * (state.y[j] @ masses)), float(state.liquid[j] * (state.x[j] @ masses))
    if build.vaporised > 0.0:
        return risen / float(state.vapour[j] / build.vaporised * (state.x[j] @ masses))
    return risen / (risen + left)


def _two_liquids(shares: Vector) -> str:
    """Where there are two liquids; blank where there are none."""
    parts = [j + 1 for j in np.flatnonzero(shares < 1.0)]
    if not parts:
        return ""
    runs = np.split(np.array(parts), np.flatnonzero(np.diff(parts) > 1) + 1)
    spans = [f"{run[0]} to {run[-1]}" if len(run) > 1 else f"{run[0]}" for run in runs]
    return f"There are two liquids on stage{'s' if len(parts) > 1 else ''} {' and '.join(spans)}: compositions and heat are those of both together."


def _profiles(build: Built, state: ColumnState, ports: Mapping[str, str], size: Sized) -> list[Profile]:
    """Of the column, and of each side stripper."""
    places = [ProfilePort(INLET, float(at), stream=tag) for tag, at in build.placed if at <= build.stages]
    places += [ProfilePort(ports[name], float(product.stage)) for name, product in state.products.items() if product.stage <= build.stages]
    main = _profile(build, state, slice(0, build.stages), "stages", "Stage by stage", places)
    found = [replace(main, columns=(*main.columns, *size.columns))]
    first = build.stages
    for row, stripper in zip(build.rows("strippers"), build.strippers, strict=True):
        own = slice(first, first + stripper.stages)
        at = [ProfilePort(ports[stripper.name], float(own.stop))]
        at += [ProfilePort(INLET, float(on), stream=tag) for tag, on in build.placed if own.start < on <= own.stop]
        found.append(_profile(build, state, own, f"stripper_{row.id}", f"Side stripper {row.id}, stage by stage", at))
        first = own.stop
    return found


def _profile(build: Built, state: ColumnState, on: slice, key: str, title: str, places: Sequence[ProfilePort]) -> Profile:
    rising = [float(v) if v > 0.0 else None for v in state.vapour[on]]
    columns = [
        column("temperature", "Temperature", "temperature", state.T[on]),
        column("liquid_flow", "Liquid", "mole_flow", state.liquid[on], group="Flow"),
        column("vapour_flow", "Vapour", "mole_flow", rising, group="Flow"),
        *(column("liquid_fraction", "Mole fraction, liquid", "fraction", state.x[on, i], name) for i, name in enumerate(build.ids)),
        *(column("vapour_fraction", "Mole fraction, vapour", "fraction", state.y[on, i], name) for i, name in enumerate(build.ids)),
        *(column("equilibrium_ratio", "Equilibrium ratio", "number", state.K[on, i], name) for i, name in enumerate(build.ids)),
        column("pressure", "Pressure", "pressure", state.P[on]),
        column("heat", "Heat added", "power", state.duties[on]),
    ]
    if (state.light_shares[on] < 1.0).any():
        columns.append(column("light_share", "Lighter liquid in the liquid", "fraction", state.light_shares[on]))
    if (kinetics := build.kinetics) is not None:
        for number, reaction in enumerate(kinetics.set.reactions):
            columns.append(column("extent", reaction.name, "mole_flow", state.extents[on, number], group="Reactions"))
    along = column("stage", "Stage", "number", np.arange(on.start + 1.0, on.stop + 1.0))
    return Profile(key, title, along, tuple(columns), ports=tuple(places), steps=True)
