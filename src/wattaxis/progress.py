"""How far a long piece of work has come, and whether it is still wanted: told to whoever listens, without a word in every signature."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

#: Takes the share that is done (None where it cannot be said) and returns False to end the work.
Listener = Callable[[float | None], bool]

_listener: ContextVar[Listener | None] = ContextVar("listener", default=None)


class Stopped(Exception):
    """Raised inside long work when its listener does not want it any more.

    >>> with listening(lambda share: False):
    ...     try:
    ...         reached(0.5)
    ...     except Stopped:
    ...         print("ended")
    ended
    """


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Within it ``listener`` is told by every :func:`reached`.

    >>> told = []
    >>> with listening(lambda share: told.append(share) or True):
    ...     reached(0.25)
    >>> told
    [0.25]
    """
    token = _listener.set(listener)
    try:
        yield
    finally:
        _listener.reset(token)


@contextmanager
def portion(start: float, end: float) -> Iterator[None]:
    """What is told within counts from ``start`` to ``end`` of the whole.

    >>> told = []
    >>> with listening(lambda share: told.append(share) or True), portion(0.5, 1.0):
    ...     reached(0.5)
    >>> told
    [0.75]
    """
    outer = _listener.get()
    if outer is None:
        yield
        return
    with listening(lambda share: outer(None if share is None else start + share * (end - start))):
        yield


def reached(share: float | None = None) -> None:
    """Tell that so much is done (0 to 1; None: it goes on). Raises :class:`Stopped` when the work is not wanted any more; nobody may listen."""
    listener = _listener.get()
    if listener is not None and not listener(share):
        raise Stopped
