"""What columns on the sheet may have beside their stages: pump-arounds, side strippers, a decanter, reactions, pressures and efficiencies, losses."""

import pytest
from columns import rows, solved
from plants import plant, q

from wattaxis import Memory, check, solve
from wattaxis.flowsheet import models_of
from wattaxis.solving.calculator import Calculator

CUTS = [("n-pentane", "109-66-0"), ("n-hexane", "110-54-3"), ("n-heptane", "142-82-5"), ("n-octane", "111-65-9"), ("n-decane", "124-18-5")]
BUILT = {
    "stages": q("20"),
    "condenser": "total",
    "reboiler": "kettle",
    "top_pressure": q("2 bar"),
    "reflux_ratio": q("2"),
    "distillate_flow": q("30 mol/s"),
}
FEED = {"temperature": q("400 K"), "pressure": q("2.5 bar"), "flow": q("100 mol/s")}
ESTER = [("methanol", "67-56-1"), ("acetic acid", "64-19-7"), ("methyl acetate", "79-20-9"), ("water", "7732-18-5")]


def column(
    spec, outlets=("distillate", "bottoms"), parts=CUTS, shares=None, feed=FEED, model="peng-robinson", extra=(), lines=(), stage="14", **given
):
    share = dict(zip([name for name, _ in parts], shares or [1.0 / len(parts)] * len(parts), strict=True))
    fed = {**feed, "composition": {"basis": "mole_fraction", "values": {name: q(str(value)) for name, value in share.items()}}}
    built = {**BUILT, "feeds": rows({"stream": "1", "stage": q(stage)}, *extra), **spec}
    units = {"F": ("feed", fed), "T": ("staged-column", {k: v for k, v in built.items() if v is not None})}
    units |= {f"Z{k}": ("product", {}) for k, _ in enumerate(outlets)}
    streams = ["1: F.outlet -> T.inlet", *(f"{k + 2}: T.{port} -> Z{k}.inlet" for k, port in enumerate(outlets)), *lines]
    return plant(parts, {**units, **given.pop("units", {})}, streams, model, **given)


def told(document):
    return " ".join(f.text for f in solve(document).findings)


ROUND = {"from": q("6"), "to": q("4"), "flow": q("50 mol/s"), "power": q("-500 kW")}
SIDE = {"stages": q("4"), "from": q("8"), "to": q("7"), "flow": q("15 mol/s"), "boil_up": q("0.5")}


def test_pump_arounds_and_side_strippers_on_the_sheet():
    plain, _ = solved(column({}))
    spec = {"pump_arounds": rows(ROUND), "strippers": rows(SIDE)}
    result, _ = solved(column(spec, ("distillate", "bottoms", "stripper_1")))
    assert result.streams["4"].mole_flow == pytest.approx(15.0)
    main, side = result.units["T"].profiles[:2]
    assert main.at("heat", 4) == pytest.approx(-5e5)
    assert [len(p.along.values) for p in (main, side)] == [20, 4]
    assert side.along.values[0] == 21.0
    assert side.at("liquid_fraction", 24, "n-pentane") < 0.6 * side.at("liquid_fraction", 21, "n-pentane")
    # What is taken out half-way does not go to the condenser.
    assert result.units["T"].profiles[0].at("vapour_flow", 10) > plain.units["T"].profiles[0].at("vapour_flow", 10)


def test_a_side_stripper_may_be_specified_by_what_its_product_holds():
    pure = {k: v for k, v in SIDE.items() if k != "flow"} | {"component": "n-heptane", "purity": q("45 %")}
    result, _ = solved(column({"strippers": rows(pure)}, ("distillate", "bottoms", "stripper_1")))
    assert result.streams["4"].mole_fractions["n-heptane"] == pytest.approx(0.45, abs=1e-9)
    assert "Side stripper 1 has a flow and a mole fraction" in told(
        column({"strippers": rows({**SIDE, **pure})}, ("distillate", "bottoms", "stripper_1"))
    )


def test_efficiencies_may_be_those_of_components():
    table = rows(
        {"from": q("2"), "to": q("10"), "efficiency": q("80 %")}, {"from": q("2"), "to": q("6"), "component": "n-decane", "efficiency": q("50 %")}
    )
    profile = solved(column({"efficiencies": table}))[0].units["T"].profiles[0]
    for name, stage, share in (("n-decane", 4, 0.5), ("n-decane", 8, 0.8), ("n-hexane", 4, 0.8), ("n-hexane", 14, 1.0)):
        y, below, ideal = (profile.at("vapour_fraction", stage, name), profile.at("vapour_fraction", stage + 1, name),
                           profile.at("equilibrium_ratio", stage, name) * profile.at("liquid_fraction", stage, name))  # fmt: skip
        assert y - below == pytest.approx(share * (ideal - below), abs=1e-9)


def test_a_loop_goes_on_with_an_estimate_of_every_product():
    """Where streams allow no state yet, side strippers hand on something too, and together it is what is fed."""
    spec = {"pump_arounds": rows(ROUND), "strippers": rows({**SIDE, "flow": q("60 mol/s")}), "reflux_ratio": q("0.2")}
    document = column(spec, ("distillate", "bottoms", "stripper_1"))
    assert not solve(document).complete
    calculator = Calculator(document, models_of(document))
    streams = calculator.named("F", calculator.unit("F", {}, Memory()))[0]
    draft = calculator.unit("T", streams, Memory(), "draft")
    assert set(draft.outlets) == {"distillate", "bottoms", "stripper_1"}
    assert sum(s.flow for s in draft.outlets.values()) == pytest.approx(100.0)


def test_a_side_stripper_is_fed_steam():
    steam = {
        "temperature": q("430 K"),
        "pressure": q("2.5 bar"),
        "flow": q("2 mol/s"),
        "composition": {"basis": "mole_fraction", "values": {"water": q("1")}},
    }
    parts = [*CUTS, ("water", "7732-18-5")]
    spec = {"strippers": rows({k: v for k, v in SIDE.items() if k != "boil_up"}), "condenser": "vapour product", "distillate_flow": None,
            "vapour_flow": q("32 mol/s")}  # fmt: skip
    given = {"parts": parts, "shares": [0.2] * 5 + [0.0], "extra": [{"stream": "S", "stage": q("24")}], "units": {"S0": ("feed", steam)}}
    result, _ = solved(column(spec, ("vapour", "bottoms", "stripper_1"), lines=["S: S0.outlet -> T.inlet"], **given))
    side = result.units["T"].profiles[1]
    assert side.at("liquid_fraction", 24, "n-pentane") < 0.8 * side.at("liquid_fraction", 21, "n-pentane")
    assert {(p.port, p.place) for p in side.ports} == {("stripper_1", 24.0), ("inlet", 24.0)}


def test_a_draw_may_be_specified_by_what_it_holds():
    draw = rows({"stage": q("8"), "phase": "liquid", "component": "n-heptane", "purity": q("32 %")})
    result, _ = solved(column({"draws": draw}, ("distillate", "bottoms", "draw_1")))
    assert result.streams["4"].mole_fractions["n-heptane"] == pytest.approx(0.32, abs=1e-9)


def test_ratios_and_shares_of_the_feed_are_specifications():
    spec = {
        "distillate_flow": None,
        "purities": rows({"product": "distillate", "component": "n-heptane", "over": "n-hexane", "counts": "ratio", "value": q("0.05")}),
    }
    result, _ = solved(column(spec))
    flows = result.streams["2"].mole_flows
    assert flows["n-heptane"] / flows["n-hexane"] == pytest.approx(0.05, rel=1e-8)
    part, _ = solved(column({"distillate_flow": None, "purities": rows({"product": "distillate", "counts": "recovery", "value": q("35 %")})}))
    assert part.streams["2"].mole_flow == pytest.approx(35.0)


def test_pressures_and_efficiencies_by_section():
    spec = {"pressures": rows({"stage": q("2"), "pressure": q("2.2 bar")}), "pressure_drop": q("0.4 bar"),
            "efficiencies": rows({"from": q("2"), "to": q("10"), "efficiency": q("60 %")})}  # fmt: skip
    result, _ = solved(column(spec, feed={**FEED, "pressure": q("3 bar")}))
    profile = result.units["T"].profiles[0]
    assert [profile.at("pressure", j) for j in (1, 2, 11, 20)] == pytest.approx([2e5, 2.2e5, 2.3e5, 2.4e5])
    x, y, K = (profile.column(key, "n-hexane").values for key in ("liquid_fraction", "vapour_fraction", "equilibrium_ratio"))
    assert y[4] - y[5] == pytest.approx(0.6 * (K[4] * x[4] - y[5]), abs=1e-9)
    assert y[14] == pytest.approx(K[14] * x[14], abs=1e-9)


def test_heat_that_stages_lose_is_told_and_closes_the_balance():
    result, values = solved(column({"heat_loss": q("50 W/K"), "surroundings": q("10 degC")}))
    temperatures = result.units["T"].profiles[0].column("temperature").values[1:]
    assert values["heat_lost"] == pytest.approx(50.0 * sum(T - 283.15 for T in temperatures), rel=1e-9)


def test_a_decanter_sends_one_liquid_back():
    parts = [("1-butanol", "71-36-3"), ("water", "7732-18-5")]
    spec = {"condenser": "total, with decanter", "stages": q("10"), "reflux_ratio": None, "distillate_flow": None, "top_pressure": q("1 bar"),
            "purities": rows({"product": "bottoms", "component": "1-butanol", "counts": "mole fraction", "value": q("99.5 %")})}  # fmt: skip
    given = {"parts": parts, "shares": [0.6, 0.4], "model": "nrtl", "stage": "3", "feed": {**FEED, "temperature": q("360 K")}}
    result, _ = solved(column(spec, **given))
    assert result.streams["3"].mole_fractions["1-butanol"] == pytest.approx(0.995, abs=1e-9)
    assert result.streams["2"].mole_fractions["water"] > 0.97
    heavy, _ = solved(column({**spec, "back": "heavier liquid"}, **given))
    assert heavy.streams["2"].mole_fractions["water"] < 0.7
    cold, _ = solved(column({**spec, "subcooling": q("40 K")}, **given))
    assert cold.streams["2"].temperature == pytest.approx(result.streams["2"].temperature - 40.0, abs=0.5)


RATE = {"orders": {"methanol": 1, "acetic acid": 1}, "basis": "mole fraction", "value": "1000", "unit": "mol/(m3 s)", "energy": "0 kJ/mol"}
MADE = {
    "name": "Ester",
    "numbers": {"methanol": -1, "acetic acid": -1, "methyl acetate": 1, "water": 1},
    "phase": "liquid",
    "forward": RATE,
    "backward": "thermodynamics",
}


def reacting(**spec):
    acid = {
        "temperature": q("330 K"),
        "pressure": q("1.5 bar"),
        "flow": q("50 mol/s"),
        "composition": {"basis": "mole_fraction", "values": {"acetic acid": q("1")}},
    }
    spec = {"stages": q("24"), "top_pressure": q("1.013 bar"), "distillate_flow": q("50 mol/s"), "reactions": "Main", **spec}
    given = {"parts": ESTER, "shares": [1.0, 0.0, 0.0, 0.0], "model": "unifac", "stage": "18", "extra": [{"stream": "A", "stage": q("6")}]}
    feed = {**FEED, "temperature": q("320 K"), "flow": q("50 mol/s"), "pressure": q("1.5 bar")}
    extra = {"units": {"A0": ("feed", acid)}, "reactions": [{"name": "Main", "reactions": [MADE]}]}
    return column(spec, lines=["A: A0.outlet -> T.inlet"], feed=feed, **given, **extra)


def test_an_ester_is_made_and_parted_in_one_column():
    result, values = solved(reacting(hold_ups=rows({"from": q("6"), "to": q("18"), "liquid": q("0.5 m3")})))
    assert result.streams["2"].mole_fractions["methyl acetate"] > 0.9
    assert values["extent"] == pytest.approx(
        result.streams["2"].mole_flows["methyl acetate"] + result.streams["3"].mole_flows["methyl acetate"], rel=1e-8
    )
    profile = result.units["T"].profiles[0]
    assert sum(profile.column("extent").values) == pytest.approx(values["extent"], rel=1e-9)
    assert profile.at("extent", 20) == 0.0


def test_reactions_go_for_as_long_as_the_liquid_stays():
    _, values = solved(reacting(hold_ups=rows({"from": q("6"), "to": q("18"), "time": q("60 min")})))
    assert values["extent"] > 40.0
    both = rows({"from": q("6"), "to": q("18"), "time": q("60 min"), "liquid": q("1 m3")})
    assert "gives the liquid on each stage and its residence time" in told(reacting(hold_ups=both))


@pytest.mark.parametrize(("spec", "says"), [
    ({}, "no stage holds anything for them"),
    ({"hold_ups": rows({"from": q("6"), "to": q("18"), "catalyst": q("100 kg")})}, "row 1 gives no liquid"),
    ({"hold_ups": rows({"from": q("6"), "to": q("48"), "liquid": q("0.5 m3")})}, "Row 1 is on stage 48"),
    ({"reactions": "Others", "hold_ups": rows({"from": q("6"), "to": q("18"), "liquid": q("0.5 m3")})}, 'no reaction set "Others"'),
])  # fmt: skip
def test_reactions_that_cannot_go_are_told(spec, says):
    assert says in told(reacting(**spec))


def test_what_is_missing_in_the_tables_is_asked_for():
    blank = {"pump_arounds": rows({"from": q("6")}), "draws": rows({"stage": q("8"), "phase": "liquid", "component": "n-hexane"}),
             "purities": rows({"product": "distillate", "counts": "ratio", "component": "n-hexane", "value": q("0.1")})}  # fmt: skip
    asks = " ".join(a.text for a in check(column({**blank, "distillate_flow": None}, ("bottoms",))).asks)
    for what in ("the to stage in row 1 of its pump-arounds", "the mole fraction in row 1 of its side draws", "component over which the ratio is"):
        assert what in asks


@pytest.mark.parametrize(("spec", "says"), [
    ({"pressures": rows({"stage": q("10"), "pressure": q("5 bar")})}, "The pressure falls from stage 10 to stage 11"),
    ({"pressures": rows({"stage": q("40"), "pressure": q("5 bar")})}, "the column has stages 1 to 20"),
    ({"efficiencies": rows({"from": q("2"), "to": q("30"), "efficiency": q("60 %")})}, "Row 1 is on stage 30"),
    ({"pump_arounds": rows({**ROUND, "from": q("20")})}, "whose liquid is a product"),
    ({"strippers": rows({k: v for k, v in SIDE.items() if k != "boil_up"})}, "neither a reboiler nor a feed on its last stage, 24"),
    ({"strippers": rows({**SIDE, "stages": q("0")})}, "0 stages of a side stripper cannot be calculated"),
    ({"draws": rows({"stage": q("8"), "phase": "liquid", "flow": q("5 mol/s"), "component": "n-hexane", "purity": q("0.3")})}, "one of them follows"),
    ({"condenser": "total, with decanter", "reflux_ratio": None}, "knows no second liquid"),
])  # fmt: skip
def test_what_cannot_be_is_told_in_words(spec, says):
    ports = [f"stripper_{k}" for k, _ in enumerate(spec.get("strippers", {"rows": ()})["rows"], 1)]
    ports += [f"draw_{k}" for k, _ in enumerate(spec.get("draws", {"rows": ()})["rows"], 1)]
    assert says in told(column(spec, ("distillate", "bottoms", *ports)))
