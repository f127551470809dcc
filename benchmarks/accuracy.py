"""Writes how right the properties are over the whole bank (docs/accuracy.md) and what the comparison of its sources found (docs/bank-audit.md)."""

import sys
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests" / "support"))
from accuracy import MODELS, VALUES, against_reference, boiling_points, deviations  # noqa: E402

from wattaxis import model_infos  # noqa: E402
from wattaxis.substances.bank import bank_data  # noqa: E402


def worst(off: dict[str, float], unit: str) -> str:
    far = sorted(off, key=lambda name: -abs(off[name]))[:5]
    return ", ".join(f"{name} {off[name]:+.0f} K" if unit == "K" else f"{name} {off[name]:+.0%}" for name in far)


def share(off: dict[str, float], at: float) -> str:
    return f"{np.percentile(np.abs(list(off.values())), at):.2%}"


def accuracy() -> str:
    lines = [
        "# How right the properties are",
        "",
        "Made by `make audit` over every substance of the bank. What is measured is compared at five temperatures of its range up to 0.8 Tc;",
        "of each substance the median counts. Models: NRTL with a virial vapour, the cubic equations with shifted volumes.",
        "",
        "## Boiling points",
        "| model | substances | median | within 1 K | farthest |",
        "|---|---|---|---|---|",
    ]
    for kind in ("ideal", "peng-robinson", "soave-redlich-kwong", "predictive-soave-redlich-kwong"):
        off = boiling_points(kind)
        size = np.abs(list(off.values()))
        lines.append(f"| {model_infos()[kind].title} | {len(off)} | {np.median(size):.2f} K | {np.mean(size <= 1.0):.1%} | {worst(off, 'K')} |")
    lines += [
        "",
        "## Liquids against measured curves",
        "| property | model | substances | median | nine in ten within | farthest |",
        "|---|---|---|---|---|---|",
    ]
    for curve in VALUES:
        for kind in MODELS:
            off = deviations(kind, curve)
            row = f"| {len(off)} | {share(off, 50)} | {share(off, 90)} | {worst(off, '%')} |"
            lines.append(f"| {curve} | {model_infos()[kind].title} {row}")
    lines += ["", "## Saturated liquids at 0.65 Tc against the reference equations of CoolProp (NRTL, virial vapour)"]
    lines += ["| property | substances | median | nine in ten within | farthest |", "|---|---|---|---|---|"]
    for key, off in against_reference().items():
        lines.append(f"| {key} | {len(off)} | {share(off, 50)} | {share(off, 90)} | {worst(off, '%')} |")
    return "\n".join(lines) + "\n"


def audit() -> str:
    entries = bank_data()["substances"]
    doubtful = [e for e in entries if e.get("doubts")]
    kinds: dict[str, int] = {}
    for entry in doubtful:
        for doubt in entry["doubts"]:
            key = doubt.split(":")[0] if ":" in doubt else "S0, Hf and Gibbs energy"
            kinds[key] = kinds.get(key, 0) + 1
    lines = [
        "# Audit of the component bank",
        "",
        "Every constant and curve was compared with all other open sources at hand when the bank was written; a value that the others contradict",
        "was passed over, what is left is marked. The same sentences stand with each substance under Chemistry.",
        "",
        f"{len(entries)} substances, {len(doubtful)} with something to say:",
        "",
        *(f"- {key}: {count}" for key, count in sorted(kinds.items(), key=lambda item: -item[1])),
        "",
        "| substance | CAS | found |",
        "|---|---|---|",
        *(f"| {e['name']} | {e['cas']} | {'; '.join(e['doubts'])} |".replace("\n", " ") for e in sorted(doubtful, key=lambda e: e["name"].lower())),
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    (ROOT / "docs" / "bank-audit.md").write_text(audit())
    text = accuracy()
    (ROOT / "docs" / "accuracy.md").write_text(text)
    print(text)
