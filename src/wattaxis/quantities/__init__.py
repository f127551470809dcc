"""Numbers with units: reading "350 degC", "2.1 barg", "12 t/h", and printing them again.

What a person typed is kept as :class:`Quantity`; the solver sees SI floats only.
"""

from wattaxis.quantities.kinds import KINDS, UNIT_SETS, Kind, shown_as
from wattaxis.quantities.quantity import Quantity, QuantityError, from_si, parse, register_kind, to_si

__all__ = ["KINDS", "UNIT_SETS", "Kind", "Quantity", "QuantityError", "from_si", "parse", "register_kind", "shown_as", "to_si"]
