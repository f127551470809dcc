"""Writes how right the properties are over the whole bank (docs/accuracy.md) and what the comparison of its sources found (docs/bank-audit.md)."""

import sys
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests" / "support"))
from accuracy import MODELS, VALUES, against_reference, boiling_points, deviations  # noqa: E402

from wattaxis import PropertyModel, component, model_infos  # noqa: E402
from wattaxis.properties.trust import mixing_heat  # noqa: E402
from wattaxis.substances.bank import bank_data, bank_pair  # noqa: E402


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
    return "\n".join(lines + pairs()) + "\n"


def pairs() -> list[str]:
    """What estimated pairs are worth: the groups that they are fitted to against the bank's own pairs, and the sign of heats of mixing."""
    lines = [
        "",
        "## Pairs: limiting activity coefficients at 333 K and heats of mixing at 300 K of the bank's own pairs against UNIFAC (Dortmund)",
        "An estimated pair is off by about as much as these two differ. A heat of mixing of the other sign is told on every stream where it counts.",
        "",
        "| model | pairs | factor between limits, median | nine in ten within | heats of mixing looked at | of the other sign |",
        "|---|---|---|---|---|---|",
    ]
    for kind in ("nrtl", "uniquac", "wilson"):
        factors, heats, wrong = [], 0, 0
        for first, second, *_values in bank_data()["pairs"][kind]["rows"]:
            parts, known = [component(first), component(second)], bank_pair(kind, first, second)
            if known is None or known.doubt or not all(c.groups.get("dortmund") and c.critical_temperature > 370.0 for c in parts):
                continue
            try:
                groups, own = PropertyModel("unifac-dortmund", parts), PropertyModel(kind, parts)
            except ValueError:  # sizes that UNIQUAC does not know
                continue
            for i, x in enumerate(([0.0, 1.0], [1.0, 0.0])):
                limits = [m.activity_coefficients(333.0, 1e5, x)[i] for m in (own, groups)]
                factors.append(abs(np.log(limits[0] / limits[1])))
            heats += 1
            wrong += mixing_heat(own, 0, 1, 300.0) is not None
        typical, most = np.exp(np.percentile(factors, [50, 90]))
        lines.append(f"| {model_infos()[kind].title} | {len(factors) // 2} | {typical:.2f} | {most:.2f} | {heats} | {wrong} |")
    return lines


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
