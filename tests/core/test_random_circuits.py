"""Random closed circuits: what goes round is what the charge says, nothing is lost, and the answer is that of the document."""

import random

import pytest
from plants import plant, q

from wattaxis import Memory, edit, solve

REFRIGERANTS = [("propane", "74-98-6"), ("isobutane", "75-28-5"), ("n-butane", "106-97-8"), ("ethane", "74-84-0")]


def pressure(bar):
    return q(f"{bar:.4g} bar")


def circuit(rng):
    """A refrigeration cycle of one to three stages of compression, with or without a flash between two valves, of one to three components."""
    parts = rng.sample(REFRIGERANTS, rng.randint(1, 3))
    shares = {name: q(f"{rng.uniform(0.1, 1.0):.3f} ") for name, _ in parts}
    low, stages, ratio = rng.uniform(1.2, 3.0), rng.randint(1, 3), rng.uniform(1.8, 2.6)
    levels = [low * ratio**k for k in range(stages + 1)]
    charge = {"composition": {"basis": "mole_fraction", "values": shares, "normalise": True}}
    given = rng.choice(["flow", "heat_taken_in", "heat_given_off"])
    charge[given] = q(f"{rng.uniform(200, 5000):.4g} kg/h") if given == "flow" else q(f"{rng.uniform(50, 500):.4g} kW")
    units = {"C": ("circuit-charge", charge)}
    for k, level in enumerate(levels[1:], 1):
        units[f"K{k}"] = ("compressor", {"outlet_pressure": pressure(level), "efficiency": q(f"{rng.uniform(60, 85):.3g} %")})
    units["E1"] = ("cooler", {"subcooling": q(f"{rng.uniform(0, 8):.3g} K")})
    units["V"] = ("valve", {"outlet_pressure": pressure(low)})
    units["E2"] = ("heater", {"superheat": q(f"{rng.uniform(0, 10):.3g} K")})
    tags = list(units)
    turn = rng.randrange(len(tags))
    lines = [f"S{k}: {a}.outlet -> {b}.inlet" for k, (a, b) in enumerate(zip(tags, tags[1:] + tags[:1], strict=True), 1)]
    return plant(parts, units, lines[turn:] + lines[:turn]), given, charge[given], len(lines)


@pytest.mark.parametrize("seed", range(40))
def test_a_random_circuit_closes_and_is_the_same_from_every_tear(seed):
    rng = random.Random(seed)
    document, given, wanted, count = circuit(rng)
    result = solve(document)
    assert result.complete, [f.text for f in result.findings if f.severity == "fault"]
    assert abs(result.balance.energy_gap) < 1e-8
    flows = [s.mass_flow for s in result.streams.values()]
    assert max(flows) - min(flows) < 1e-8 * max(flows)
    if given == "flow":
        assert flows[0] == pytest.approx(wanted["value"] / 3600, rel=1e-9)
    else:
        unit = "E2" if given == "heat_taken_in" else "E1"
        assert result.units[unit]["duty"] == pytest.approx(wanted["value"] * 1e3, rel=1e-7)
    other = solve(edit(document, "set_tear", tag=f"S{rng.randint(1, count)}", torn=True))
    assert other.complete
    for tag, stream in result.streams.items():
        assert other.streams[tag].enthalpy_flow == pytest.approx(stream.enthalpy_flow, rel=1e-7)


@pytest.mark.parametrize("seed", range(8))
def test_a_circuit_forgets_what_it_was(seed):
    """Edits there and back with one memory: the same digits as from nothing, to the tolerance of the loop."""
    rng = random.Random(100 + seed)
    document, *_ = circuit(rng)
    fresh, memory = solve(document), Memory()
    solve(document, memory=memory)
    away = edit(document, "set_values", unit="E2", values={"superheat": q("25 K")})
    away = edit(away, "set_values", unit="K1", values={"efficiency": q("50 %")})
    assert solve(away, memory=memory).complete
    back = solve(document, memory=memory)
    for tag, stream in fresh.streams.items():
        assert back.streams[tag].mole_flow == pytest.approx(stream.mole_flow, rel=1e-8)
        assert back.streams[tag].temperature == pytest.approx(stream.temperature, rel=1e-8)
