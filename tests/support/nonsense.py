"""Requests made from the API's own description: nearly right, with real names where names stand, and junk here and there."""

import random
import re

JUNK = [None, True, 0, -1, 1e308, "", "x" * 5000, "95 degC", "\x00", "\ud800", "a\r\nb", [], {}, {"value": 1}, [[[]]], "../../etc/passwd", 10**40]
#: Texts that may be right somewhere.
WORDS = ["1 bar", "95 degC", "K", "bar", "mol/s", "inlet", "outlet", "vapour", "duty", "temperature", "peng_robinson", "nrtl", "water", "Metric"]
WORDS += ["S-07.temperature - 300 K", "S-07.mole_flow", "1/0", "64-17-5", "78-93-3", "heater", "feed", "flash_drum", "pure", "A", "x" * 24]


class Requests:
    """Draws requests for the routes of a description; ``names``: tags, ids and the like that exist at present."""

    def __init__(self, description: dict, rng: random.Random, names: list[str]) -> None:
        self.rng, self.names = rng, names
        self.definitions = description["components"]["schemas"]
        self.calls = [(method, path, call) for path, methods in description["paths"].items() for method, call in methods.items()]

    def draw(self, ids: dict[str, list]) -> tuple[str, str, dict, object]:
        """(method, path, query, body) of a request; ``ids``: values of the parameters in paths."""
        method, path, call = self.rng.choice(self.calls)
        path = re.sub(r"{(\w+)}", lambda found: self.identity(ids, found.group(1)), path)
        query = {p["name"]: self.text() for p in call.get("parameters", []) if p["in"] == "query" and self.rng.random() < 0.8}
        content = (call.get("requestBody") or {}).get("content", {})
        schema = next(iter(content.values()))["schema"] if content else None
        return method, path, query, self.value(schema) if schema else None

    def identity(self, ids: dict[str, list], name: str) -> str:
        odd = ["0", "999999999999999999999", "x", "%00", "../..", "a" * 300]
        return str(self.rng.choice(ids.get(name, [])) if name in ids and self.rng.random() < 0.85 else self.rng.choice(odd))

    def text(self) -> str:
        kind = self.rng.random()
        return self.rng.choice(self.names if kind < 0.6 else WORDS if kind < 0.9 else ["", "\x00", "x" * 5000, "%", "<b>", "../.."])

    def value(self, schema: dict, depth: int = 0) -> object:
        """A value as a schema describes it, now and then something else."""
        if self.rng.random() < 0.04 or depth > 9:
            return self.rng.choice(JUNK)
        if "$ref" in schema:
            return self.value(self.definitions[schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        for several in ("anyOf", "oneOf", "allOf"):
            if several in schema:
                return self.value(self.rng.choice(schema[several]), depth + 1)
        if "const" in schema or "enum" in schema:
            return self.rng.choice(schema.get("enum") or [schema["const"]])
        make = getattr(self, f"_{schema.get('type', 'anything')}")
        return make(schema, depth)

    def _object(self, schema: dict, depth: int) -> dict:
        found = {}
        for name, inner in schema.get("properties", {}).items():
            if name in schema.get("required", ()) or self.rng.random() < 0.4:
                found[name] = self.value(inner, depth + 1)
        more = schema.get("additionalProperties")
        if isinstance(more, dict) or (more is True and not found):
            inner = more if isinstance(more, dict) else {}
            found |= {self.text(): self.value(inner, depth + 1) for _ in range(self.rng.randrange(4))}
        return found

    def _array(self, schema: dict, depth: int) -> list:
        most = 2 if depth > 4 else 4
        return [self.value(schema.get("items") or {}, depth + 1) for _ in range(self.rng.randrange(most))]

    def _string(self, schema: dict, depth: int) -> str:
        return self.text()

    def _number(self, schema: dict, depth: int) -> float:
        return self.rng.choice([0, 1, -1, 0.5, 350.0, 1e5, 1e308, -1e-300, self.rng.uniform(-10, 400)])

    def _integer(self, schema: dict, depth: int) -> int:
        return self.rng.choice([0, 1, 2, 3, 7, 90, -1, 10**6, 10**30])

    def _boolean(self, schema: dict, depth: int) -> bool:
        return self.rng.random() < 0.5

    def _null(self, schema: dict, depth: int) -> None:
        return None

    def _anything(self, schema: dict, depth: int) -> object:
        """Where the description leaves open what stands there: a quantity mostly."""
        if self.rng.random() < 0.5:
            return {"value": self._number(schema, depth), "unit": self.rng.choice(["degC", "bar", "kW", "K", "mol/s", "%"])}
        return self.text() if self.rng.random() < 0.7 else self.rng.choice(JUNK)
