"""The pairs that were fitted when the bank was made: every one of them makes a model of sound liquids, near what it was fitted to."""

import numpy as np
import pytest

from wattaxis import PropertyModel
from wattaxis.properties.pairs import known_pairs
from wattaxis.properties.registry import model_kinds
from wattaxis.substances import bank_pair, component
from wattaxis.substances.bank import ESTIMATED, _more

CUBIC = ("peng-robinson", "soave-redlich-kwong")
ROWS = {}
for kind, *ends in (key.split(";") for key in _more()):
    ROWS.setdefault(kind, []).append((tuple(ends), bank_pair(kind, *ends)))


def parts(cas):
    return [component(number) for number in sorted(cas)]


@pytest.mark.parametrize("kind", CUBIC)
def test_every_k_ij_is_one_that_a_reviewer_would_believe(kind):
    values = {pair: found.values["kij"] for pair, found in ROWS[kind]}
    assert len(values) > 900
    assert all(-0.35 < value < 0.7 for value in values.values())
    assert abs(float(np.median(list(values.values())))) < 0.05
    measured = [found for _, found in ROWS[kind] if found.quality == "measured fit"]
    assert measured
    assert all("GERG-2008" in found.source for found in measured)


@pytest.mark.parametrize("kind", CUBIC)
def test_no_estimated_k_ij_parts_what_mixes_and_all_follow_the_groups(kind):
    off = []
    for pair, found in ROWS[kind]:
        liquids = parts(pair)
        if found.quality != "estimated" or min(c.critical_temperature for c in liquids) < 375.0:
            continue
        cubic, groups = PropertyModel(kind, liquids), PropertyModel("unifac-dortmund", liquids)
        for x in (0.1, 0.3, 0.5, 0.7, 0.9):
            ours, theirs = (m.flash([x, 1.0 - x], T=333.15, VF=0.0) for m in (cubic, groups))
            assert ours.second_liquid is theirs.second_liquid is None, (liquids[0].name, liquids[1].name, x)
            off.append(abs(np.log(ours.pressure / theirs.pressure)))
    assert len(off) > 4000
    assert np.median(off) < 0.04
    assert np.percentile(off, 90) < 0.12


@pytest.mark.parametrize("kind", [kind for kind in ROWS if kind not in CUBIC])
def test_every_estimated_pair_follows_its_groups(kind):
    """ln gamma of the mixture in equal parts at 333 K, by the pair and by the groups it was fitted to."""
    off = {}
    for pair, found in ROWS[kind]:
        assert (found.source, found.quality) == (ESTIMATED, "estimated")
        liquids = parts(pair)
        if any(c.critical_temperature < 420.0 for c in liquids):
            continue
        own, groups = (PropertyModel(k, liquids).activity_coefficients(333.15, 1e5, [0.5, 0.5]) for k in (kind, "unifac-dortmund"))
        off[" / ".join(c.name for c in liquids)] = float(np.abs(np.log(own / groups)).max())
    size = np.array(list(off.values()))
    assert len(off) > 700
    assert np.median(size) < 0.02
    assert np.percentile(size, 90) < 0.15


@pytest.mark.parametrize("kind", sorted(ROWS))
def test_a_pair_is_the_same_from_either_side_and_never_takes_the_place_of_one_of_the_tables(kind):
    family = model_kinds()[kind]
    for pair, _row in ROWS[kind][::7]:
        first, second = parts(pair)
        there, back = (known_pairs(family, both, {}) for both in ([first, second], [second, first]))
        if "ha" in next(iter(there.values())).values:
            continue  # a gas dissolves by its Henry constant
        assert there[0, 1].quality == back[0, 1].quality
        ends = {"12": "21", "21": "12"}
        assert {name[:-2] + ends.get(name[-2:], name[-2:]): value for name, value in back[0, 1].values.items()} == dict(there[0, 1].values)
    assert bank_pair(kind, "64-17-5", "64-17-5") is None


def test_hydrogen_sulfide_with_methane_has_about_the_k_ij_of_handbooks():
    """Around 0.08 with either cubic equation."""
    for kind, low, high in (("peng-robinson", 0.07, 0.10), ("soave-redlich-kwong", 0.06, 0.10)):
        found = bank_pair(kind, component("methane").cas, component("hydrogen sulfide").cas)
        assert found is not None
        assert low < found.values["kij"] < high
