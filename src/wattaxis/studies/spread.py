"""How uncertain results are: distributions, rank correlations, and which input how much of the variance comes from.

Indices by the estimators of Saltelli et al. (2010), Comput. Phys. Commun. 181, 259, table 2: (b) for the first order, (f), of Jansen, for the total.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wattaxis.flowsheet import Study
from wattaxis.studies.draws import NORMAL, pairs_of
from wattaxis.studies.result import Share, Spread
from wattaxis.studies.stand import Case

Array = NDArray[np.float64]
#: Cases that a distribution needs; bars of a histogram at most; draws for the doubt of an index, the same ones whenever they are drawn.
FEWEST, BARS, DRAWS, SEED = 10, 40, 400, 20_260_101
QUANTILES = (0.025, 0.25, 0.5, 0.75, 0.975)


def spreads(study: Study, cases: Sequence[Case]) -> tuple[tuple[Spread | None, ...], tuple[str, ...]]:
    """The distribution of every output over the cases, None where too few have a value; and what is to be said of them."""
    inputs = np.array([case.inputs for case in cases], float)
    outputs = np.array([case.outputs for case in cases], float)  # None becomes nan
    found = tuple(_spread(inputs, outputs[:, k], study) for k in range(outputs.shape[1]))
    failed = int(np.isnan(outputs).any(axis=1).sum())
    remarks = [f"{failed} of {len(cases)} cases have no answer and are left out: the rest is what can be calculated."] if failed else []
    if study.design == "Sobol" and any(spread is not None and spread.shares for spread in found):
        doubts = [share.total_doubt for spread in found if spread is not None for share in spread.shares]
        if max(doubts) > 0.1:
            remarks.append(f"The indices of Sobol are known to {max(doubts):.2g} only. Take more samples.")
    return found, tuple(remarks)


def _spread(inputs: Array, output: Array, study: Study) -> Spread | None:
    there = np.isfinite(output)
    values = output[there]
    if len(values) < FEWEST:
        return None
    counts, edges = np.histogram(values, bins=min(max(round(2.0 * len(values) ** (1 / 3)), 5), BARS))  # Rice's rule
    return Spread(
        count=len(values),
        mean=float(values.mean()),
        deviation=float(values.std(ddof=1)),
        quantiles=tuple(float(q) for q in np.quantile(values, QUANTILES)),
        edges=tuple(float(e) for e in edges),
        counts=tuple(int(c) for c in counts),
        ranks=tuple(_rank_correlation(inputs[there, k], values) for k in range(inputs.shape[1])),
        noise=NORMAL / math.sqrt(len(values) - 1),
        shares=_shares(output, inputs.shape[1], pairs_of(study, inputs.shape[1])) if study.design == "Sobol" else (),
    )


def _rank_correlation(one: Array, other: Array) -> float | None:
    from scipy.stats import spearmanr

    if np.ptp(one) == 0.0 or np.ptp(other) == 0.0:
        return None
    return float(spearmanr(one, other).statistic)


def _shares(output: Array, inputs: int, pairs: int) -> tuple[Share, ...]:
    """Indices of every input from the outputs of pairs of samples; pairs of which a case has none are left out."""
    table = output.reshape(inputs + 2, pairs)
    table = table[:, np.isfinite(table).all(axis=0)]
    if table.shape[1] < FEWEST or np.ptp(table) == 0.0:
        return ()
    first, total = _indices(table)
    random = np.random.default_rng(SEED)
    drawn = [_indices(table[:, random.integers(0, table.shape[1], table.shape[1])]) for _ in range(DRAWS)]
    doubts = NORMAL * np.nanstd(np.array(drawn), axis=0)
    return tuple(Share(float(first[k]), float(doubts[0, k]), float(total[k]), float(doubts[1, k])) for k in range(inputs))


def _indices(table: Array) -> tuple[Array, Array]:
    first, second, mixed = table[0], table[1], table[2:]
    middle = float(table[:2].mean())
    variance = float(table[:2].var())
    if variance == 0.0:
        return np.full(len(mixed), np.nan), np.full(len(mixed), np.nan)
    # About the mean, which takes most of the noise out of the products.
    alone = ((second - middle) * (mixed - first)).mean(axis=1) / variance
    together = 0.5 * ((first - mixed) ** 2).mean(axis=1) / variance
    return np.asarray(alone), np.asarray(together)
