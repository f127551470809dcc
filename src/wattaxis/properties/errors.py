"""What can go wrong in a flash."""


class FlashError(ArithmeticError):
    """A flash without an answer. ``reason``: "no such state" or "not converged"; ``str()`` is a sentence."""

    def __init__(self, reason: str, message: str) -> None:
        super().__init__(message)
        self.reason = reason
