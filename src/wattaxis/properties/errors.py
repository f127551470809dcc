"""What can go wrong in a flash."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property


class FlashError(ArithmeticError):
    """A flash without an answer. ``reason``: "no such state" or "not converged"; ``str()`` is a sentence, with the nearest state that exists.

    The nearest one is looked for when somebody reads the sentence: searches that step back from a state that is not there never ask.

    >>> from wattaxis import PropertyModel
    >>> try:
    ...     PropertyModel("peng-robinson", ["methane"]).flash([1.0], T=300.0, VF=0.5)
    ... except FlashError as error:
    ...     error.reason
    'no such state'
    """

    def __init__(self, reason: str, message: str, nearest: Callable[[], str] | None = None) -> None:
        super().__init__(message)
        self.reason, self._nearest = reason, nearest

    def __str__(self) -> str:
        return f"{super().__str__()} {self.nearest}".rstrip()

    @cached_property
    def nearest(self) -> str:
        """The nearest state that exists, in a sentence; blank where none is known."""
        return "" if self._nearest is None else self._nearest()
