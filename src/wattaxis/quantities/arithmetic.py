"""Ordinary arithmetic as a checked tree, never executed as code: numbers with units, names of any grammar, ``+ - * / ^``, brackets, functions."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, NoReturn

FUNCTIONS = {"abs": (1, 1), "sqrt": (1, 1), "ln": (1, 1), "exp": (1, 1), "min": (2, 9), "max": (2, 9)}
LONGEST = 300
DEEPEST = 30


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
class Call:
    """An operator ("+", "-", "*", "/", "^", "negative") or a function with its arguments."""

    function: str
    arguments: tuple[Any, ...]


@dataclass(frozen=True)
class Grammar:
    """What names look like: a pattern with the groups space, number, unit, name, function and sign; what is made of a name; how one is written."""

    token: re.Pattern[str]
    named: Callable[[re.Match[str]], Any]
    hint: str


#: The parts of a pattern that all grammars share.
SPACE, FUNCTION, SIGN = r"(?P<space>\s+)", r"(?P<function>[a-z]+)(?=\s*\()", r"(?P<sign>[-+*/^(),])"
NUMBER = r"(?P<number>(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?(\s*(?P<unit>[A-Za-z%][A-Za-z0-9]*)(?![\w.(-]*[.(\[]))?)"


def parsed(text: str, grammar: Grammar) -> Any:
    """The checked tree of a text: Number, Call, or what the grammar makes of a name. Raises FormulaError that says where, and what is accepted."""
    if len(text) > LONGEST:
        raise FormulaError(f"A formula has at most {LONGEST} characters", LONGEST)
    return _Parser(text, grammar).whole()


def leaves(node: Any) -> Iterator[Any]:
    """Everything in a tree that is no operation."""
    if isinstance(node, Call):
        for part in node.arguments:
            yield from leaves(part)
    else:
        yield node


class _Parser:
    """Recursive descent with one token of look-ahead."""

    def __init__(self, text: str, grammar: Grammar) -> None:
        self.grammar = grammar
        self.tokens: list[tuple[str, re.Match[str]]] = []
        self.depth = 0
        position = 0
        while position < len(text):
            match = grammar.token.match(text, position)
            if match is None:
                raise FormulaError(f"{text[position : position + 12]!r} is not understood; {grammar.hint}", position)
            kind = next(k for k in ("space", "number", "name", "function", "sign") if match.group(k) is not None)
            if kind != "space":
                self.tokens.append((kind, match))
            position = match.end()
        self.at = 0
        self.end = len(text)

    def whole(self) -> Any:
        node = self.sum()
        if self.at < len(self.tokens):
            self._wrong(f"{self.tokens[self.at][1].group()!r} is not expected here")
        return node

    def sum(self) -> Any:
        node = self.product()
        while (sign := self._take("+", "-")) is not None:
            node = Call(sign, (node, self.product()))
        return node

    def product(self) -> Any:
        node = self.negative()
        while (sign := self._take("*", "/")) is not None:
            node = Call(sign, (node, self.negative()))
        return node

    def negative(self) -> Any:
        self.depth += 1
        if self.depth > DEEPEST:
            self._wrong("The formula is nested too deeply")
        node: Any = Call("negative", (self.negative(),)) if self._take("-") else self.power()
        self.depth -= 1
        return node

    def power(self) -> Any:
        node = self.atom()
        return Call("^", (node, self.negative())) if self._take("^") else node

    def atom(self) -> Any:
        if self.at == len(self.tokens):
            self._wrong("A number, a name or a bracket is missing")
        kind, match = self.tokens[self.at]
        self.at += 1
        if kind == "number":
            unit = match.group("unit") or ""
            digits = match.group().removesuffix(unit).strip() if unit else match.group()
            return Number(float(digits), unit)
        if kind == "name":
            return self.grammar.named(match)
        if kind == "function":
            return self._call(match)
        if match.group() == "(":
            node = self.sum()
            self._close()
            return node
        self.at -= 1
        return self._wrong(f"{match.group()!r} is not expected here")

    def _call(self, match: re.Match[str]) -> Any:
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
