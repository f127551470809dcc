"""The steam tables against the check values of the release and against an independent implementation."""

import numpy as np
import pytest
from chemicals import iapws
from hypothesis import given, settings
from hypothesis import strategies as st

from wattaxis import FlashError, PropertyModel

STEAM = PropertyModel("steam", ["water"])
M = STEAM.molar_masses[0]


#: IAPWS R6-95, table 7: T (K), density (kg/m3), pressure (MPa), isochoric left out, entropy (kJ/(kg K)).
SINGLE = [
    (300.0, 0.9965560e3, 0.992418352e-1, 0.393062643),
    (300.0, 0.1005308e4, 0.200022515e2, 0.387405401),
    (500.0, 0.4350000, 0.999679423e-1, 0.794488271e1),
    (500.0, 0.8380250e3, 0.100003858e2, 0.256690919e1),
    (500.0, 0.1084564e4, 0.700000405e3, 0.203237509e1),
    (647.0, 0.3580000e3, 0.220384756e2, 0.432092307e1),
    (900.0, 0.2410000, 0.100062559, 0.916653194e1),
    (900.0, 0.8707690e3, 0.700000006e3, 0.417223802e1),
]
#: The same release, table 8: T, saturation pressure (MPa), densities of both phases, enthalpies (kJ/kg).
BOILING = [
    (275.0, 0.698451167e-3, 0.999887406e3, 0.550664919e-2, 0.775972202e1, 0.250428995e4),
    (450.0, 0.932203564, 0.890341250e3, 0.481200360e1, 0.749161585e3, 0.277441078e4),
    (625.0, 0.169082693e2, 0.567090385e3, 0.118290280e3, 0.168626976e4, 0.255071625e4),
]


def kilogram(state):
    """Enthalpy (J/kg) and entropy (J/(kg K)) from the liquid at the triple point, where steam tables count from."""
    zero = STEAM.flash([1.0], T=273.16, VF=0.0)
    return (state.enthalpy - zero.enthalpy) / M, (state.entropy - zero.entropy) / M


@pytest.mark.parametrize(("t", "density", "p", "entropy"), SINGLE)
def test_single_phase_values_of_the_release(t, density, p, entropy):
    state = STEAM.flash([1.0], T=t, P=p * 1e6)
    close = 2e-5 if t == 647.0 else 2e-8  # next to the critical point the density hangs on the last digits of the pressure
    assert state.phases[0].density == pytest.approx(density, rel=close)
    assert kilogram(state)[1] == pytest.approx(entropy * 1e3, rel=1e-6, abs=2e-5)


@pytest.mark.parametrize(("t", "p", "liquid", "vapour", "h_liquid", "h_vapour"), BOILING)
def test_boiling_values_of_the_release(t, p, liquid, vapour, h_liquid, h_vapour):
    low, high = (STEAM.flash([1.0], T=t, VF=vf) for vf in (0.0, 1.0))
    assert low.pressure == pytest.approx(p * 1e6, rel=3e-9)
    assert low.phases[0].density == pytest.approx(liquid, rel=1e-7)
    assert high.phases[0].density == pytest.approx(vapour, rel=1e-7)
    assert kilogram(low)[0] == pytest.approx(h_liquid * 1e3, abs=1.0)
    assert kilogram(high)[0] == pytest.approx(h_vapour * 1e3, abs=1.0)


@settings(max_examples=80, deadline=None)
@given(t=st.floats(274.0, 1270.0), p=st.floats(3.0, 8.5).map(lambda e: 10.0**e))
def test_densities_and_the_way_back_everywhere(t, p):
    state = STEAM.flash([1.0], T=t, P=p)
    if abs(t - 647.1) > 3.0:
        assert state.phases[0].density == pytest.approx(iapws.iapws95_rho(t, p), rel=1e-7)
    for known in ({"H": state.enthalpy}, {"S": state.entropy}):
        assert STEAM.flash([1.0], P=p, **known).temperature == pytest.approx(t, rel=1e-7)
    heat = [STEAM.flash([1.0], T=t + dt, P=p) for dt in (-1e-3 * t, 1e-3 * t)]
    if heat[0].phase == heat[1].phase == state.phase and abs(t - 647.1) > 20.0:
        slope = (heat[1].enthalpy - heat[0].enthalpy) / (2e-3 * t)
        assert state.phases[0].heat_capacity == pytest.approx(slope, rel=5e-3)


def test_no_loop_of_the_equation_is_taken_for_a_fluid():
    """Along the whole boiling line, from a thousandth of the vapour pressure to thirty times it."""
    for t in np.linspace(274.0, 646.0, 38):
        boiling = iapws.iapws95_saturation(float(t))[0]
        for ratio in (1e-3, 0.03, 0.5, 0.97, 1.03, 3.0, 30.0):
            state = STEAM.flash([1.0], T=float(t), P=float(boiling * ratio))
            assert state.phases[0].density == pytest.approx(iapws.iapws95_rho(float(t), float(boiling * ratio)), rel=1e-6)


def test_wet_steam_and_the_ends_of_the_range():
    wet = STEAM.flash([1.0], P=1e6, VF=0.9)
    again = STEAM.flash([1.0], P=1e6, S=wet.entropy)
    assert (again.vapour_fraction, again.temperature) == (pytest.approx(0.9, abs=1e-9), pytest.approx(wet.temperature, rel=1e-10))
    with pytest.raises(FlashError):
        STEAM.flash([1.0], T=650.0, VF=0.5)
    assert "freeze" in STEAM.ranges_left(STEAM.flash([1.0], T=270.0, P=1e5))[0]
    assert "1273" in STEAM.ranges_left(STEAM.flash([1.0], T=1300.0, P=1e5))[0]
    for wrong in (["water", "ethanol"], ["ethanol"]):
        with pytest.raises(ValueError, match="water alone"):
            PropertyModel("steam", wrong)
    assert np.isfinite(STEAM.flash([1.0], T=600.0, P=5e6).transport(STEAM.flash([1.0], T=600.0, P=5e6).phases[0]).viscosity)
