"""What is said of a property model: for choosing, for reports, for basis notes."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PairParameter:
    """One interaction parameter of a pair: name, unit ("" or "K" or "1/K"), bounds of what may be typed, the value it has when nothing is given.

    A name that ends in 12 or 21 has a direction: 12 goes from the first to the second component of the pair.
    """

    name: str
    unit: str = ""
    low: float = -1e5
    high: float = 1e5
    default: float = 0.0
    help: str = ""


@dataclass(frozen=True)
class ModelInfo:
    """A property model: key, title, source, what it is for and what it cannot do, its pair parameters.

    ``equation`` says in lines how those enter, written for two components.
    """

    key: str
    title: str
    source: str
    use: str
    limits: str
    parameters: tuple[PairParameter, ...] = ()
    equation: tuple[str, ...] = ()
    #: Place in the list of models.
    order: int = 50


def directed(letter: str, unit: str = "") -> tuple[PairParameter, PairParameter]:
    """The two directions of a parameter."""
    return PairParameter(letter + "12", unit), PairParameter(letter + "21", unit)


def over_temperature(symbol: str) -> str:
    """The line that says how a pair value depends on temperature."""
    return f"{symbol} = a + b/T + e ln T + f T for each direction, T in K"


#: The line on dissolved gases.
DISSOLVED = "Dissolved gas: ln(H/Pa) = ha + hb/T + he ln T + hf T"
#: Henry constant of the more volatile of a pair in the other, ln(H/Pa) = ha + hb/T + he ln T + hf T; takes the place of the other parameters.
HENRY = (
    PairParameter("ha", "", -1e4, 1e4, 0.0, "Henry constant in Pa: ln H = ha + hb/T + he ln T + hf T"),
    PairParameter("hb", "K"),
    PairParameter("he", "", -1e4, 1e4),
    PairParameter("hf", "1/K", -10.0, 10.0),
)
