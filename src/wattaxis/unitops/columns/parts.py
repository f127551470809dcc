"""Property models of some of the components of a plant: stages hold only what is fed to them."""

from __future__ import annotations

from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

#: What was made of a model before: it takes as long as many columns.
_MADE: WeakKeyDictionary[PropertyModel, dict[tuple[str, ...], PropertyModel]] = WeakKeyDictionary()


def part_of(model: PropertyModel, ids: tuple[str, ...]) -> PropertyModel:
    """The model with the components ``ids`` alone; the model itself where that is all of them.

    >>> from wattaxis import PropertyModel
    >>> whole = PropertyModel("ideal", ["benzene", "toluene"])
    >>> part_of(whole, ("benzene", "toluene")) is whole
    True
    """
    if ids == tuple(c.id for c in model.components):
        return model
    made = _MADE.setdefault(model, {})
    if ids not in made:
        made[ids] = model.part_of(ids)
    return made[ids]
