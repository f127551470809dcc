"""Formulas over results: ordinary arithmetic with the names of streams and units.

``S-14.mass_flow / S-01.mass_flow``, ``2 * (V-101.duty + 5 kW)``, ``S-14.mole_fraction[butanone]``. A name is a tag, a point and what is
meant, with a component in brackets where there is one for each component, and a place where there is one for each stage or along a length
(``T-101.temperature[stage 12]``, ``L-1.pressure[length 20 m]``); a tag with a blank or a point in it stands in quotes. Numbers
may carry a unit of one word (``300 K``, ``5 kW``). There are ``+ - * / ^``, brackets, and the functions ``abs sqrt ln exp min max``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from wattaxis.quantities.arithmetic import FUNCTION, LONGEST, NUMBER, SIGN, SPACE, Call, FormulaError, Grammar, Number, leaves, parsed

__all__ = ["LONGEST", "Call", "FormulaError", "Name", "Node", "Number", "names_in", "parse_formula", "renamed"]

_NAME = r'(?P<name>("(?P<quoted>[^"]{1,24})"|(?P<tag>[A-Za-z0-9][A-Za-z0-9_/-]*))\.(?P<what>[a-z][a-z0-9_]*)(\[(?P<bracket>[^\[\]]{1,120})\])?)'
_TOKEN = re.compile("|".join((SPACE, NUMBER, _NAME, FUNCTION, SIGN)))


@dataclass(frozen=True)
class Name:
    """A value of a stream or unit; ``bracket`` is what stands in brackets, a component or a place."""

    tag: str
    what: str
    bracket: str | None = None

    def __str__(self) -> str:
        return f"{_written(self.tag)}.{self.what}" + (f"[{self.bracket}]" if self.bracket else "")


Node = Number | Name | Call


def _named(match: re.Match[str]) -> Name:
    return Name(match.group("quoted") or match.group("tag"), match.group("what"), match.group("bracket"))


_GRAMMAR = Grammar(_TOKEN, _named, "a name is written like S-14.mass_flow")


def parse_formula(text: str) -> Node:
    """The checked tree of a formula. Raises FormulaError that says where and what would be accepted.

    >>> parse_formula("S-14.mass_flow / 2")
    Call(function='/', arguments=(Name(tag='S-14', what='mass_flow', bracket=None), Number(value=2.0, unit='')))
    """
    return parsed(text, _GRAMMAR)  # type: ignore[no-any-return]


def names_in(node: Node) -> list[Name]:
    """The names that a formula uses."""
    return [part for part in leaves(node) if isinstance(part, Name)]


def renamed(text: str, old: str, new: str) -> str:
    """The text of a formula after a tag was renamed."""
    before, after = _written(old) + ".", _written(new) + "."
    return _TOKEN.sub(lambda m: m.group().replace(before, after, 1) if old in (m.group("tag"), m.group("quoted")) else m.group(), text)


def _written(tag: str) -> str:
    return tag if re.fullmatch(r"[A-Za-z][A-Za-z0-9_/-]*", tag) else f'"{tag}"'
