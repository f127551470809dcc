"""What can go wrong in a flash."""


class FlashError(ArithmeticError):
    """A flash without an answer. ``reason``: "no such state" or "not converged"; ``str()`` is a sentence.

    >>> from wattaxis import PropertyModel
    >>> try:
    ...     PropertyModel("peng-robinson", ["methane"]).flash([1.0], T=300.0, VF=0.5)
    ... except FlashError as error:
    ...     error.reason
    'no such state'
    """

    def __init__(self, reason: str, message: str) -> None:
        super().__init__(message)
        self.reason = reason
