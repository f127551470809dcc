"""Long work tells how far it is, in order, and ends where nobody wants it any more."""

import numpy as np
import pytest
from plants import demo, example

from wattaxis import (
    DataSet,
    Free,
    PropertyModel,
    azeotropes,
    azeotropes_over,
    compare,
    fit_pairs,
    fit_vapour_pressure,
    propose_free,
    residue_curve_map,
)
from wattaxis.progress import Stopped, listening, portion, reached


def told(work):
    shares = []
    with listening(lambda share: shares.append(share) or True):
        work()
    return [share for share in shares if share is not None]


def three():
    return PropertyModel("unifac", ["acetone", "chloroform", "methanol"])


def test_portions_nest_and_nobody_need_listen():
    def work():
        reached(0.0)
        with portion(0.2, 0.6):
            reached(0.5)
            with portion(0.5, 1.0):
                reached(1.0)
            reached()
        reached(1.0)

    assert told(work) == pytest.approx([0.0, 0.4, 0.6, 1.0])
    work()
    with pytest.raises(Stopped), listening(lambda share: share is None or share < 0.5):
        work()
    reached(0.3)  # the listener has gone with its block


@pytest.mark.parametrize(
    "work",
    [
        lambda: azeotropes(three(), 101325.0),
        lambda: azeotropes_over(three(), 5e4, 2e5, 3),
        lambda: residue_curve_map(three(), 101325.0, curves=5),
    ],
)
def test_searches_go_from_nothing_to_nearly_all_and_can_be_ended_anywhere(work):
    shares = told(work)
    assert shares == sorted(shares)
    assert 0.0 <= shares[0] < 0.3
    assert 0.5 < shares[-1] <= 1.0
    for place in (1, len(shares) // 2, len(shares) - 1):
        count = 0

        def until(share, place=place):
            nonlocal count
            count += share is not None
            return count <= place

        with pytest.raises(Stopped), listening(until):
            work()


def test_the_answer_is_the_same_whether_somebody_listens_or_not():
    plain = azeotropes(three(), 101325.0)
    with listening(lambda share: True):
        heard = azeotropes(three(), 101325.0)
    assert [p.temperature for p in plain.points] == [p.temperature for p in heard.points]


def test_fits_and_comparisons_end_too():
    pair = ("ethanol", "water")
    t = np.linspace(330.0, 360.0, 8)
    data = DataSet("infinite dilution", pair, {"T": t, "g1": np.full(8, 6.0), "g2": np.full(8, 2.5)})
    pure = DataSet("vapour pressure", ("water",), {"T": t, "P": np.exp(23.2 - 3816.0 / (t - 46.1))})
    for work in (
        lambda: fit_pairs(PropertyModel("margules", pair), [data], [Free(pair, "a12"), Free(pair, "a21")]),
        lambda: fit_vapour_pressure([pure]),
        lambda: compare([demo(), demo()]),
        lambda: propose_free(example("sandlark_bay_recycle"), "S-201.mass_flow"),
    ):
        with pytest.raises(Stopped), listening(lambda share: False):
            work()
    assert told(lambda: compare([demo(), demo()])) == [0.0, 0.5]
