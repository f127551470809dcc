"""The contract for rich units, by a small column from outside: two heat ports with their temperatures, feeds that are named, one or two of many."""

from dataclasses import replace

import pytest
from plants import C4, feed, plant, q

from wattaxis import edit, solve
from wattaxis.flowsheet.document import own_shapes, to_data
from wattaxis.quantities import Quantity
from wattaxis.testing import Unsound, check_unit
from wattaxis.unitops import (
    Choice,
    Column,
    Field,
    GivenTable,
    Port,
    ResultValue,
    StreamState,
    UnitOperation,
    UnitResult,
    UnitSpec,
    register,
    unit_types,
)
from wattaxis.unitops.base import EnergyState
from wattaxis.unitops.registry import _REGISTERED

MANY = ("light_share", "heavy_share", "reflux_ratio")


class SmallSpec(UnitSpec):
    condenser: str | None = None
    light_share: Quantity | None = None
    heavy_share: Quantity | None = None
    reflux_ratio: Quantity | None = None
    feeds: GivenTable | None = None


class SmallColumn(UnitOperation):
    type, title, symbol, letter, family, theory = "small-column", "Small column", "column", "T", "separation", "Shares, for a test."
    Spec = SmallSpec
    ports = (
        Port("feed", "Feed", "in", many=True),
        Port("overhead", "Overhead", "out", place=(1.0, 0.0)),
        Port("bottoms", "Bottoms", "out", place=(1.0, 1.0)),
        Port("condensing", "Heat of the condenser", "out", needed=False, place=(1.0, 0.1), kind="heat"),
        Port("boiling", "Heat of the reboiler", "in", needed=False, place=(1.0, 0.9), kind="heat"),
    )
    fields = (
        Field("condenser", "Condenser", "option", options=("none", "total")),
        *(Field(key, key.replace("_", " ").capitalize(), "number") for key in MANY),
        Field("feeds", "Feeds", "table", columns=(Column("stream", "Stream", "stream"), Column("stage", "Stage", "number"))),
    )
    choices = (Choice("Condenser", ("condenser",)), Choice("Specifications", MANY))

    def choices_of(self, spec):
        """With a condenser one more can be chosen."""
        return (self.choices[0], Choice("Specifications", MANY, 2 if spec.condenser == "total" else 1))

    def solve(self, givens, inlets, model, outlets):
        stages = {row.cells["stream"]: row.cells["stage"].value for row in (givens.raw("feeds") or GivenTable()).rows}
        total = sum(s.flows for s in inlets["feed"])
        if not total.sum() > 0.0:
            return UnitResult(dict.fromkeys(("overhead", "bottoms"), inlets["feed"][0]))
        share = givens.si("light_share") or 0.5
        state, flow = inlets["feed"][0].state, total.sum()
        top, low = (model.flash(total / flow, T=t, P=state.pressure) for t in (state.temperature - 5.0, state.temperature + 5.0))
        parts = {"overhead": StreamState(share * flow, top), "bottoms": StreamState((1.0 - share) * flow, low)}
        taken = givens.power("boiling") or 0.0
        need = sum(p.enthalpy_flow for p in parts.values()) - sum(s.enthalpy_flow for s in inlets["feed"])
        given_off = EnergyState("heat", 1e5, top.temperature, top.temperature)
        energies = {"condensing": given_off} if "condensing" in outlets else {}
        mean = sum(stages.get(tag, 1.0) for tag in givens.tags["feed"]) / len(givens.tags["feed"])
        warm = [e.low for e in givens.energy.get("boiling", ())]
        heated = (ResultValue("boiling_at", "Heated at", "temperature", t) for t in warm if t is not None)
        values = (ResultValue("feed_stage", "Mean stage of the feeds", "number", mean), *heated)
        outside = need - taken + sum(e.power for e in energies.values())
        return UnitResult(parts, outside, values, energies=energies)


@pytest.fixture
def small():
    register(SmallColumn)
    yield unit_types()["small-column"]
    del _REGISTERED["small-column"]


def column(**spec):
    rows = [{"id": str(k), "cells": {"stream": tag, "stage": q(f"{stage}")}} for k, (tag, stage) in enumerate((("S-1", 5), ("S-2", 9)), 1)]
    units = {
        "F-1": feed(pressure="10 bar", temperature="330 K"),
        "F-2": feed(pressure="10 bar", temperature="330 K"),
        "T-1": ("small-column", {"condenser": "none", "light_share": q("0.4"), "feeds": {"rows": rows}, **spec}),
        "Z-1": ("product", {}),
        "Z-2": ("product", {}),
        "HB": ("heat-supply", {"power": q("20 kW"), "temperature": q("400 K")}),
        "HC": ("heat-sink", {}),
    }
    lines = ["S-1: F-1.outlet -> T-1.feed", "S-2: F-2.outlet -> T-1.feed", "S-3: T-1.overhead -> Z-1.inlet", "S-4: T-1.bottoms -> Z-2.inlet"]
    return plant(C4, units, [*lines, "Q-1: HB.heat_out -> T-1.boiling", "Q-2: T-1.condensing -> HC.heat_in"])


def test_feeds_are_known_by_their_tags_and_go_on_being_so_when_one_is_renamed(small):
    document = column()
    assert solve(document).units["T-1"]["feed_stage"] == 7.0
    renamed = edit(document, "rename", tag="S-2", new="S-20")
    assert renamed.unit("T-1").spec.feeds.row("2").cells["stream"] == "S-20"
    assert solve(renamed).units["T-1"]["feed_stage"] == 7.0


def test_two_heat_ports_carry_their_own_powers_and_temperatures(small):
    result = solve(column())
    assert result.complete, (result.findings, result.asks)
    assert result.energies["Q-2"].power == 1e5
    assert result.energies["Q-2"].low == result.streams["S-3"].temperature
    assert result.units["T-1"]["boiling_at"] == 400.0
    assert result.balance.energy_gap == pytest.approx(0.0, abs=1e-9)


def test_how_many_may_be_given_follows_from_another_given(small):
    assert not solve(column()).asks
    asks = solve(column(condenser="total")).asks
    assert asks[0].text == "T-1 needs one value more for its specifications: heavy share or reflux ratio."
    document = column(reflux_ratio=q("2"))
    told = [f.text for f in solve(document).findings if f.severity == "fault"]
    assert told == ["T-1 has too many values for its specifications: light share and reflux ratio are all given; only 1 may be specified."]
    (shape,) = own_shapes(to_data(column(condenser="total"))).values()
    assert shape[1][1].count == 2


def test_it_holds_what_every_unit_must(small):
    check_unit(small, {"condenser": "none", "light_share": "0.3"})


def test_a_hint_that_changes_the_answer_is_found_out(small):
    class Drifting(SmallColumn):
        type = "drifting-column"

        def solve(self, givens, inlets, model, outlets):
            result = super().solve(givens, inlets, model, outlets)
            light = 0.3 if givens.hint is None else 0.31
            flow = sum(s.flow for s in inlets["feed"])
            parts = {key: replace(result.outlets[key], flow=share * flow) for key, share in (("overhead", light), ("bottoms", 1.0 - light))}
            need = sum(p.enthalpy_flow for p in parts.values()) - sum(s.enthalpy_flow for s in inlets["feed"])
            return replace(result, outlets=parts, energy_in=need, hint=True)

    register(Drifting)
    try:
        with pytest.raises(Unsound, match="with the hint of another calculation"):
            check_unit(unit_types()["drifting-column"], {"condenser": "none", "light_share": "0.3"})
    finally:
        del _REGISTERED["drifting-column"]
