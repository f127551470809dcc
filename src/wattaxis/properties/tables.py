"""Tables for notebooks: HTML without styles, and pandas frames where pandas is installed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from html import escape
from typing import Any

from wattaxis.quantities import KINDS, Quantity, from_si

#: The kind of quantity of the numbers that states, phases and streams have.
KIND_OF = {
    "temperature": "temperature",
    "pressure": "pressure",
    "vapour_fraction": "number",
    "enthalpy": "molar_enthalpy",
    "entropy": "molar_entropy",
    "heat_capacity": "molar_entropy",
    "molar_volume": "molar_volume",
    "molar_mass": "molar_mass",
    "density": "density",
    "viscosity": "viscosity",
    "conductivity": "conductivity",
    "surface_tension": "surface_tension",
    "mole_flow": "mole_flow",
    "mass_flow": "mass_flow",
    "volume_flow": "volume_flow",
    "enthalpy_flow": "power",
    "molar_enthalpy": "molar_enthalpy",
    "molar_entropy": "molar_entropy",
}


class WithUnits:
    """Gives the numbers of a result with their units."""

    __slots__ = ()

    def quantity(self, name: str, unit: str | None = None) -> Quantity:
        """The number of an attribute with its unit, in SI or in ``unit``. Raises KeyError for anything that has none, QuantityError for a wrong unit.

        >>> from wattaxis import PropertyModel
        >>> str(PropertyModel("ideal", ["water"]).flash([1.0], T=373.15, P=5e5).quantity("pressure", "bar"))
        '5 bar'
        """
        if name not in KIND_OF or not hasattr(self, name):
            raise KeyError(f"{name} has no unit here; there are {', '.join(n for n in KIND_OF if hasattr(self, n))}.")
        wanted = KINDS[KIND_OF[name]].si[0] if unit is None else unit
        return Quantity(value=from_si(getattr(self, name), wanted), unit=wanted)


def html_table(head: Sequence[str], rows: Sequence[Sequence[Any]]) -> str:
    """An HTML table; numbers with six digits, None as a dash.

    >>> html_table(["T, K"], [[300.0], [None]])
    '<table><tr><th>T, K</th></tr><tr><td>300</td></tr><tr><td>–</td></tr></table>'
    """
    cells = ["".join(f"<td>{_cell(value)}</td>" for value in row) for row in rows]
    titles = "".join(f"<th>{escape(title)}</th>" for title in head)
    return f"<table><tr>{titles}</tr>" + "".join(f"<tr>{row}</tr>" for row in cells) + "</table>"


def frame(columns: Sequence[str], rows: Mapping[str, Sequence[Any]]) -> Any:
    """A pandas frame with the keys of ``rows`` as index. Raises ImportError where pandas is not installed."""
    import pandas as pd

    return pd.DataFrame.from_dict(dict(rows), orient="index", columns=list(columns))


def _cell(value: Any) -> str:
    if value is None:
        return "–"
    return f"{value:.6g}" if isinstance(value, float) else escape(str(value))
