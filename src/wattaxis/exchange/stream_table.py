"""The stream table: one column a stream, one row a property, in the units of a unit set."""

from __future__ import annotations

import csv
import io
from typing import Any

from wattaxis.flowsheet import Document
from wattaxis.quantities.quantity import linear
from wattaxis.solving import SolveResult, StreamResult

#: (attribute, title, kind) of the rows that every stream has.
ROWS = (
    ("temperature", "Temperature", "temperature"),
    ("pressure", "Pressure", "pressure"),
    ("vapour_fraction", "Vapour fraction, mole", "number"),
    ("phase", "Phase", "text"),
    ("mole_flow", "Mole flow", "mole_flow"),
    ("mass_flow", "Mass flow", "mass_flow"),
    ("volume_flow", "Volume flow", "volume_flow"),
    ("enthalpy_flow", "Enthalpy flow", "power"),
    ("molar_enthalpy", "Molar enthalpy", "molar_enthalpy"),
    ("molar_entropy", "Molar entropy", "molar_entropy"),
    ("molar_mass", "Molar mass", "molar_mass"),
    ("density", "Density", "density"),
)
#: Rows that only plants with such streams have: (attribute, title, kind).
SOME_ROWS = (
    ("solids_fraction", "Solids, mass", "number"),
    ("money_flow", "Money flow", "money_flow"),
    ("doubts", "Pairs not measured", "names"),
    ("doubts_upstream", "Pairs not measured, upstream", "names"),
)


def stream_rows(document: Document, result: SolveResult) -> list[list[Any]]:
    """Header row, then one row a property: title, unit, one value a stream (None where a value does not exist).

    Heat and shaft streams come last; all they have is their power.
    """
    streams, energies = list(result.streams.values()), list(result.energies.values())
    rows: list[list[Any]] = [["Stream", "Unit", *(s.tag for s in streams)]]
    some = [row for row in SOME_ROWS if any(getattr(s, row[0]) for s in streams)]
    for attribute, title, kind in (*ROWS, *some):
        if kind == "names":
            rows.append([title, "", *("; ".join(getattr(s, attribute)) or None for s in streams)])
            continue
        if kind in ("text", "number"):
            unit = {"vapour_fraction": "mol/mol", "solids_fraction": "kg/kg"}.get(attribute, "")
            rows.append([title, unit, *(getattr(s, attribute) for s in streams)])
            continue
        unit = document.display_unit(kind)
        rows.append([title, unit, *(_shown(getattr(s, attribute), unit) for s in streams)])
    for attribute, title, unit in (("mole_fractions", "mole fraction", "mol/mol"), ("mass_fractions", "mass fraction", "kg/kg")):
        for c in document.chemistry.components:
            rows.append([f"{c.id}, {title}", unit, *(getattr(s, attribute)[c.id] for s in streams)])
    unit = document.display_unit("mole_flow")
    for c in document.chemistry.components:
        rows.append([f"{c.id}, mole flow", unit, *(_shown(s.mole_flows[c.id], unit) for s in streams)])
    if energies:
        power = document.display_unit("power")
        rows = [[*row, *(None for _ in energies)] for row in rows]
        rows[0][-len(energies) :] = [e.tag for e in energies]
        rows.append(["Heat or shaft power", power, *(None for _ in streams), *(_shown(e.power, power) for e in energies)])
    return rows


def _shown(value: float | None, unit: str) -> float | None:
    if value is None:
        return None
    factor, offset = linear(unit)
    return (value - offset) / factor


def stream_csv(document: Document, result: SolveResult) -> str:
    """The stream table as CSV (RFC 4180), full precision."""
    out = io.StringIO()
    writer = csv.writer(out)
    for row in stream_rows(document, result):
        writer.writerow(["" if v is None else harmless(v) for v in row])
    return out.getvalue()


def stream_text(document: Document, result: SolveResult) -> str:
    """The stream table for a terminal."""
    rows = [[_cell(v) for v in row] for row in stream_rows(document, result)]
    widths = [max(len(row[k]) for row in rows) for k in range(len(rows[0]))]
    lines = []
    for row in rows:
        cells = [row[0].ljust(widths[0]), row[1].ljust(widths[1]), *(cell.rjust(w) for cell, w in zip(row[2:], widths[2:], strict=True))]
        lines.append("  ".join(cells).rstrip())
    return "\n".join(lines)


def _cell(value: Any) -> str:
    if value is None:
        return "-"
    return f"{value:.6g}" if isinstance(value, float) else str(value)


def harmless(value: Any) -> Any:
    """A cell as it may go out: text that a spreadsheet would take for a formula gets a leading apostrophe."""
    return "'" + value if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value


__all__ = ["StreamResult", "harmless", "stream_csv", "stream_rows", "stream_text"]
