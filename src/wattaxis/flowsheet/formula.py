"""Formulas over results: ordinary arithmetic with the names of streams and units, parsed into a checked tree and never executed as code.

``S-14.mass_flow / S-01.mass_flow``, ``2 * (V-101.duty + 5 kW)``, ``S-14.mole_fraction[butanone]``. A name is a tag, a point and what is
meant, with a component in brackets where there is one for each component, and a place where there is one for each stage or along a length
(``T-101.temperature[stage 12]``, ``L-1.pressure[length 20 m]``); a tag with a blank or a point in it stands in quotes. Numbers
may carry a unit of one word (``300 K``, ``5 kW``). There are ``+ - * / ^``, brackets, and the functions ``abs sqrt ln exp min max``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import NoReturn

FUNCTIONS = {"abs": (1, 1), "sqrt": (1, 1), "ln": (1, 1), "exp": (1, 1), "min": (2, 9), "max": (2, 9)}
LONGEST = 300
DEEPEST = 30
_TOKEN = re.compile(
    r"""(?P<space>\s+)
    |(?P<number>(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?(\s*(?P<unit>[A-Za-z%][A-Za-z0-9]*)(?![\w.(-]*[.(\[]))?)
    |(?P<name>("(?P<quoted>[^"]{1,24})"|(?P<tag>[A-Za-z0-9][A-Za-z0-9_/-]*))\.(?P<what>[a-z][a-z0-9_]*)(\[(?P<bracket>[^\[\]]{1,120})\])?)
    |(?P<function>[a-z]+)(?=\s*\()
    |(?P<sign>[-+*/^(),])""",
    re.VERBOSE,
)


class FormulaError(ValueError):
    """A formula that cannot be read; ``position`` counts characters from zero."""

    def __init__(self, message: str, position: int) -> None:
        self.position = position
        super().__init__(f"{message} (at character {position + 1})")


@dataclass(frozen=True)
class Number:
    """A number, with its unit where one was typed."""

    value: float
    unit: str = ""


@dataclass(frozen=True)
class Name:
    """A value of a stream or unit; ``bracket`` is what stands in brackets, a component or a place."""

    tag: str
    what: str
    bracket: str | None = None

    def __str__(self) -> str:
        return f"{_written(self.tag)}.{self.what}" + (f"[{self.bracket}]" if self.bracket else "")


@dataclass(frozen=True)
class Call:
    """An operator ("+", "-", "*", "/", "^", "negative") or a function with its arguments."""

    function: str
    arguments: tuple[Node, ...]


Node = Number | Name | Call


def parse_formula(text: str) -> Node:
    """The checked tree of a formula. Raises FormulaError that says where and what would be accepted.

    >>> parse_formula("S-14.mass_flow / 2")
    Call(function='/', arguments=(Name(tag='S-14', what='mass_flow', bracket=None), Number(value=2.0, unit='')))
    """
    if len(text) > LONGEST:
        raise FormulaError(f"A formula has at most {LONGEST} characters", LONGEST)
    return _Parser(text).whole()


def names_in(node: Node) -> list[Name]:
    """The names that a formula uses."""
    if isinstance(node, Call):
        return [name for part in node.arguments for name in names_in(part)]
    return [node] if isinstance(node, Name) else []


def renamed(text: str, old: str, new: str) -> str:
    """The text of a formula after a tag was renamed."""
    before, after = _written(old) + ".", _written(new) + "."
    return _TOKEN.sub(lambda m: m.group().replace(before, after, 1) if old in (m.group("tag"), m.group("quoted")) else m.group(), text)


def _written(tag: str) -> str:
    return tag if re.fullmatch(r"[A-Za-z][A-Za-z0-9_/-]*", tag) else f'"{tag}"'


class _Parser:
    """Recursive descent with one token of look-ahead."""

    def __init__(self, text: str) -> None:
        self.tokens: list[tuple[str, re.Match[str]]] = []
        self.depth = 0
        position = 0
        while position < len(text):
            match = _TOKEN.match(text, position)
            if match is None:
                message = f"{text[position : position + 12]!r} is not understood; a name is written like S-14.mass_flow"
                raise FormulaError(message, position)
            kind = next(k for k in ("space", "number", "name", "function", "sign") if match.group(k) is not None)
            if kind != "space":
                self.tokens.append((kind, match))
            position = match.end()
        self.at = 0
        self.end = len(text)

    def whole(self) -> Node:
        node = self.sum()
        if self.at < len(self.tokens):
            self._wrong(f"{self.tokens[self.at][1].group()!r} is not expected here")
        return node

    def sum(self) -> Node:
        node = self.product()
        while (sign := self._take("+", "-")) is not None:
            node = Call(sign, (node, self.product()))
        return node

    def product(self) -> Node:
        node = self.negative()
        while (sign := self._take("*", "/")) is not None:
            node = Call(sign, (node, self.negative()))
        return node

    def negative(self) -> Node:
        self.depth += 1
        if self.depth > DEEPEST:
            self._wrong("The formula is nested too deeply")
        node: Node = Call("negative", (self.negative(),)) if self._take("-") else self.power()
        self.depth -= 1
        return node

    def power(self) -> Node:
        node = self.atom()
        return Call("^", (node, self.negative())) if self._take("^") else node

    def atom(self) -> Node:
        if self.at == len(self.tokens):
            self._wrong("A number, a name or a bracket is missing")
        kind, match = self.tokens[self.at]
        self.at += 1
        if kind == "number":
            unit = match.group("unit") or ""
            digits = match.group().removesuffix(unit).strip() if unit else match.group()
            return Number(float(digits), unit)
        if kind == "name":
            return Name(match.group("quoted") or match.group("tag"), match.group("what"), match.group("bracket"))
        if kind == "function":
            return self._call(match)
        if match.group() == "(":
            node = self.sum()
            self._close()
            return node
        self.at -= 1
        return self._wrong(f"{match.group()!r} is not expected here")

    def _call(self, match: re.Match[str]) -> Node:
        name = match.group("function")
        if name not in FUNCTIONS:
            self.at -= 1
            self._wrong(f"There is no function {name}; there are {', '.join(FUNCTIONS)}")
        self._take("(")
        arguments = [self.sum()]
        while self._take(","):
            arguments.append(self.sum())
        self._close()
        least, most = FUNCTIONS[name]
        if not least <= len(arguments) <= most:
            self._wrong(f"{name} takes {least if least == most else f'{least} to {most}'} values, not {len(arguments)}")
        return Call(name, tuple(arguments))

    def _close(self) -> None:
        if self._take(")") is None:
            self._wrong("A closing bracket is missing")

    def _take(self, *signs: str) -> str | None:
        if self.at < len(self.tokens) and self.tokens[self.at][0] == "sign" and self.tokens[self.at][1].group() in signs:
            self.at += 1
            return self.tokens[self.at - 1][1].group()
        return None

    def _wrong(self, message: str) -> NoReturn:
        raise FormulaError(message, self.tokens[self.at][1].start() if self.at < len(self.tokens) else self.end)
