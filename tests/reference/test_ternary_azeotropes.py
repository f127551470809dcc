"""Ternary azeotropes of the literature at 1 atm, found among all compositions: temperature (degC) and mass per cent as published."""

import numpy as np
import pytest

from wattaxis import PropertyModel, azeotropes

#: components, model that must find it, temperature, mass per cent, how far its mole fractions may be off, source
KNOWN = [
    (("acetone", "chloroform", "methanol"), "unifac", 57.5, (30.0, 47.0, 23.0), 0.02, "Ewell, Welch 1945"),
    (("benzene", "ethanol", "water"), "unifac", 64.86, (74.1, 18.5, 7.4), 0.05, "Horsley, Azeotropic Data III, 1973"),
    (("cyclohexane", "ethanol", "water"), "unifac", 62.1, (76.0, 17.0, 7.0), 0.09, "Horsley, Azeotropic Data III, 1973"),
    (("ethyl acetate", "ethanol", "water"), "unifac-dortmund", 70.23, (82.6, 8.4, 9.0), 0.01, "Horsley, Azeotropic Data III, 1973"),
]


@pytest.mark.parametrize(("names", "kind", "celsius", "mass", "off", "source"), KNOWN)
def test_ternary_azeotropes_of_the_literature(names, kind, celsius, mass, off, source):
    model = PropertyModel(kind, names)
    search = azeotropes(model, 101325.0)
    assert search.complete
    (found,) = [p for p in search.azeotropes if len(p.components) == 3]
    assert found.temperature - 273.15 == pytest.approx(celsius, abs=1.0), source
    moles = np.array(mass) / model.molar_masses
    assert found.fractions == pytest.approx(moles / moles.sum(), abs=off), source
    assert found.heterogeneous == (names[0] in ("benzene", "cyclohexane", "ethyl acetate"))
