"""States that exist are found: whatever vapour fraction a flash at T and P finds comes back when it is asked for, next to critical points too."""

import re

import numpy as np
import pytest

from wattaxis import FlashError, PropertyModel

CUBIC = [
    ["ethane", "n-heptane"],
    ["methane", "n-butane"],
    ["carbon dioxide", "propane"],
    ["methane", "ethane", "propane", "n-butane"],
    ["nitrogen", "methane", "ethane"],
    ["propane", "n-pentane", "n-decane"],
    ["hydrogen sulfide", "methane", "n-hexane"],
]
POLAR = [["ethanol", "water"], ["acetone", "chloroform", "methanol"], ["butanone", "water", "2-butanol"], ["n-hexane", "ethanol"]]
COUNT = 60


def two_phases(model, rng, low, high, temperatures):
    """Random compositions with a T and P at which liquid and vapour coexist, without a second liquid."""
    found = 0
    for _ in range(6000):
        z = rng.dirichlet(np.ones(len(model.components)))
        t = float(z @ [c.critical_temperature for c in model.components]) * rng.uniform(*temperatures)
        p = float(z @ [c.critical_pressure for c in model.components]) * rng.uniform(low, high)
        try:
            state = model.flash(z, T=t, P=p)
        except FlashError:
            continue
        if 0.02 < state.vapour_fraction < 0.98 and state.second_fraction <= 0.0 and not state.two_liquids and not state.left_out:
            found += 1
            yield z, state
        if found == COUNT:
            return


def check(model, z, state):
    for known in ({"P": state.pressure}, {"T": state.temperature}):
        try:
            back = model.flash(z, VF=state.vapour_fraction, **known)
        except FlashError as error:
            # Only within a thousandth of the highest T or P at which anything boils, and the nearest state is named.
            t, bar = map(float, re.search(r"is at (\S+) K and (\S+) bar", str(error)).groups())
            assert min(abs(t / state.temperature - 1.0), abs(bar * 1e5 / state.pressure - 1.0)) < 1e-3
            continue
        assert back.vapour_fraction == pytest.approx(state.vapour_fraction, abs=1e-8)
        liquid, vapour = back.liquid, back.vapour
        assert liquid is not None
        assert vapour is not None
        both = (liquid.fractions > 1e-12) & (vapour.fractions > 1e-12)
        ratio = (liquid.fractions * liquid.fugacity_coefficients)[both] / (vapour.fractions * vapour.fugacity_coefficients)[both]
        assert np.abs(np.log(ratio)).max() < 1e-7
        # It is a state of the mixture: the flash at its own T and P has as little Gibbs energy.
        again = model.flash(z, T=back.temperature, P=back.pressure)
        own, other = (s.enthalpy - s.temperature * s.entropy for s in (back, again))
        assert own <= other + 1e-6 * 8.314 * back.temperature


@pytest.mark.parametrize("parts", CUBIC, ids="+".join)
@pytest.mark.parametrize("kind", ["peng-robinson", "soave-redlich-kwong"])
def test_vapour_fractions_of_cubic_equations_are_found_up_to_the_critical_point(kind, parts):
    model, rng = PropertyModel(kind, parts), np.random.default_rng(3)
    checked = [check(model, z, state) for z, state in two_phases(model, rng, 0.5, 2.5, (0.8, 1.25))]
    assert len(checked) > 10


@pytest.mark.parametrize("parts", POLAR, ids="+".join)
@pytest.mark.parametrize("vapour", ["ideal", "virial", "soave-redlich-kwong"])
def test_vapour_fractions_of_activity_models_are_found(vapour, parts):
    model, rng = PropertyModel("nrtl", parts, vapour=vapour), np.random.default_rng(4)
    checked = [check(model, z, state) for z, state in two_phases(model, rng, 0.005, 0.15, (0.55, 0.8))]
    assert len(checked) > 10
