"""How right the property models are over the whole bank: boiling points, liquid densities, heats, against the measured curves of the bank and against
the reference equations of CoolProp."""

import numpy as np
import pytest
from accuracy import against_reference, boiling_points, deviations


@pytest.mark.parametrize("kind", ["ideal", "peng-robinson", "soave-redlich-kwong", "predictive-soave-redlich-kwong"])
def test_nineteen_in_twenty_substances_boil_within_a_kelvin(kind):
    off = np.abs(list(boiling_points(kind).values()))
    assert len(off) > 2000
    assert np.median(off) < 0.4
    assert np.mean(off > 1.0) < 0.05


@pytest.mark.parametrize(
    ("kind", "curve", "least", "median", "ninth"),
    [
        ("ideal", "liquid density", 1300, 0.01, 0.03),
        ("nrtl", "liquid density", 1300, 0.01, 0.03),
        ("peng-robinson", "liquid density", 1300, 0.01, 0.03),
        ("soave-redlich-kwong", "liquid density", 1300, 0.01, 0.03),
        ("ideal", "liquid heat capacity", 700, 0.02, 0.05),
        ("nrtl", "liquid heat capacity", 700, 0.02, 0.05),
        ("ideal", "heat of vaporisation", 1300, 0.02, 0.05),
        ("nrtl", "heat of vaporisation", 1300, 0.02, 0.05),
    ],
)
def test_liquids_follow_what_is_measured(kind, curve, least, median, ninth):
    off = list(deviations(kind, curve).values())
    assert len(off) > least
    assert np.median(off) < median
    assert np.percentile(off, 90) < ninth


def test_saturated_liquids_agree_with_reference_equations():
    """Over all fluids that CoolProp and the bank have, at 0.65 Tc."""
    found = against_reference()
    limits = {"vapour pressure": (0.01, 0.05), "liquid density": (0.005, 0.03), "heat of vaporisation": (0.01, 0.04)}
    limits["liquid heat capacity"] = (0.02, 0.08)
    for key, (median, ninth) in limits.items():
        off = np.abs(list(found[key].values()))
        assert len(off) > 90
        assert np.median(off) < median, key
        assert np.percentile(off, 90) < ninth, key
