"""Heats and equilibrium constants of reactions against published ones."""

import math

import pytest

from wattaxis import component
from wattaxis.reactions import read_equation, thermochemistry


def constant(equation, names, T):
    parts = [component(name) for name in names]
    return float(thermochemistry(read_equation(equation, parts).numbers, parts, [T]).log_constant[0])


@pytest.mark.parametrize(
    ("T", "log10"),
    # Chase (1998), NIST-JANAF tables: log K of formation of CO2 less those of CO and of steam.
    [(298.15, 69.095 - 24.030 - 40.048), (500.0, 41.259 - 16.236 - 22.886), (700.0, 29.506 - 12.948 - 15.583), (1000.0, 20.680 - 10.461 - 10.062)],
)
def test_water_gas_shift(T, log10):
    found = constant("CO + H2O = CO2 + H2", ("CO", "water", "CO2", "hydrogen"), T)
    assert found / math.log(10.0) == pytest.approx(log10, abs=0.02)


@pytest.mark.parametrize("T", [600.0, 700.0, 773.15])
def test_ammonia(T):
    """Gillespie, Beattie (1930), Phys. Rev. 36, 743: K for 1/2 N2 + 3/2 H2 = NH3 in 1/atm, at vanishing pressure."""
    published = -2.691122 * math.log10(T) - 5.519265e-5 * T + 1.848863e-7 * T**2 + 2001.6 / T + 2.6899
    found = constant("1/2 N2 + 3/2 H2 = NH3", ("nitrogen", "hydrogen", "ammonia"), T) / math.log(10.0)
    assert found == pytest.approx(published - math.log10(1.01325), abs=0.02)


@pytest.mark.parametrize(("T", "log10"), [(500.0, 16.236 - 3.429 - 22.886), (1000.0, 10.461 + 1.011 - 10.062)])
def test_steam_reforming_of_methane(T, log10):
    """Chase (1998), NIST-JANAF tables: log K of formation of CO less those of methane and of steam.

    Within half a kJ/mol: the tables give methane -74.87 +- 0.34 kJ/mol, later collections -74.5 to -74.6.
    """
    found = constant("CH4 + H2O = CO + 3 H2", ("methane", "water", "CO", "hydrogen"), T)
    assert found / math.log(10.0) == pytest.approx(log10, abs=500.0 / (math.log(10.0) * 8.314462618 * T))
