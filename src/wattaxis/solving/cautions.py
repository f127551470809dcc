"""What is to be said of the chemistry of a calculated plant: vapours taken for ideal, and property models that contradict measured curves."""

from __future__ import annotations

from collections.abc import Mapping

from wattaxis.flowsheet.guide import HIGH_PRESSURE
from wattaxis.properties.trust import Contradiction, MixingHeat, better, contradictions, wrong_heats_of_mixing
from wattaxis.properties.vapour import ASSOCIATING
from wattaxis.substances.association import associates
from wattaxis.unitops import Finding, StreamState

#: Mole fraction in a vapour from which a component that associates counts.
NOTICED = 0.01


def ideal_vapours(streams: Mapping[str, StreamState]) -> list[Finding]:
    """Vapours over an activity model at a pressure at which nobody should take them for ideal."""
    found = [
        (stream.state.pressure, tag)
        for tag, stream in streams.items()
        if stream.state.model.ideal_vapour and stream.state.model.vapour_may_change and stream.state.vapour_fraction > 0.0 and stream.flow > 0.0
    ]
    high = sorted(((p, tag) for p, tag in found if p > HIGH_PRESSURE), reverse=True)
    if not high:
        return []
    names = ", ".join(tag for _, tag in high[:6]) + (" and more" if len(high) > 6 else "")
    text = f"{names}: at {high[0][0] / 1e5:.3g} bar the vapour is not ideal, but the property model treats it as ideal."
    repair = ({"kind": "set_model", "vapour": "soave-redlich-kwong"},)
    return [
        Finding("caution", "Chemistry", text, "Choose a real vapour, or an equation of state.", None, repair, "Use a cubic equation for the vapour")
    ]


def associating_vapours(streams: Mapping[str, StreamState]) -> list[Finding]:
    """Vapours with carboxylic acids or hydrogen fluoride in a property model that takes their molecules for single ones."""
    found: dict[str, str] = {}
    changeable = False
    for tag, stream in streams.items():
        model = stream.state.model.fluid
        if stream.flow <= 0.0 or stream.state.vapour_fraction <= 0.0 or model.vapour == ASSOCIATING:
            continue
        for c in model.components:
            if c.id not in found and stream.state.vapour_fractions[stream.state.model.index(c.id)] > NOTICED and associates(c):
                found[c.id] = tag
                changeable = changeable or model.vapour_may_change
    if not found:
        return []
    names = ", ".join(f"{name} ({tag})" for name, tag in found.items())
    text = f"{names}: the vapour associates, even at one atmosphere, but the property model does not account for it."
    if not changeable:
        return [Finding("caution", "Chemistry", text, "Use an activity model with a vapour that associates.")]
    repair = ({"kind": "set_model", "vapour": ASSOCIATING},)
    return [Finding("caution", "Chemistry", text, "Choose a vapour that associates.", None, repair, "Use a vapour that associates")]


def against_measurement(streams: Mapping[str, StreamState]) -> list[Finding]:
    """One caution for each component whose liquid the property model misses on a stream: the properties, each where it is worst."""
    worst: dict[tuple[str, str], dict[str, tuple[Contradiction, str]]] = {}
    remedies: dict[tuple[str, str], str] = {}
    shiftable: dict[str, bool] = {}
    for tag, stream in streams.items():
        if stream.flow <= 0.0 or stream.state.solid_fraction >= 1.0 or stream.state.vapour_fraction >= 1.0:
            continue
        model = stream.state.model.fluid
        for found in contradictions(stream.state):
            key = model.family.info.title, found.component
            known = worst.setdefault(key, {})
            if found.what not in known or abs(found.off) > abs(known[found.what][0].off):
                known[found.what] = found, tag
            shiftable[key[0]] = model.equation_of_state and not model.translated and model.family.info.key != "steam"
            remedies[key] = better(model, model.components[model.index(found.component)])
    findings = []
    for (title, component), properties in sorted(worst.items()):
        parts = [f"{name} {found.off:+.0%} at {found.temperature:.0f} K ({tag})" for name, (found, tag) in properties.items()]
        text = f"{title} misses what is measured of liquid {component}: {', '.join(parts)}."
        repair: tuple[dict[str, object], ...] = ()
        if "density" in properties and shiftable[title]:
            repair = ({"kind": "set_model", "translated": True},)
        findings.append(Finding("caution", "Chemistry", text, remedies[title, component], None, repair, "Shift the volumes" if repair else ""))
    return findings


def against_mixing(streams: Mapping[str, StreamState]) -> list[Finding]:
    """One note for each pair whose heat of mixing has the wrong sign: its parameters were fitted to equilibria alone."""
    worst: dict[tuple[str, str, str], tuple[MixingHeat, str]] = {}
    for tag, stream in streams.items():
        if stream.flow <= 0.0 or stream.state.solid_fraction >= 1.0 or stream.state.vapour_fraction >= 1.0:
            continue
        for found in wrong_heats_of_mixing(stream.state):
            key = stream.state.model.fluid.family.info.title, found.first, found.second
            if key not in worst or abs(found.model - found.groups) > abs(worst[key][0].model - worst[key][0].groups):
                worst[key] = found, tag
    findings = []
    for (title, first, second), (heat, tag) in sorted(worst.items()):
        text = (
            f"{title} gives {first} / {second} in equal parts a heat of mixing of {heat.model:+.0f} J/mol at {heat.temperature:.0f} K ({tag}); "
            f"groups fitted to measured heats give {heat.groups:+.0f}. Its parameters were not fitted to heats."
        )
        findings.append(Finding("note", "Chemistry", text, "Where they matter, fit the pair to heats too, or use UNIFAC in its Dortmund form."))
    return findings
