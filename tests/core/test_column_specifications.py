"""What specifies a column on the sheet: rows that count and rows that wait, what each is now, swaps that leave the column as it is, properties."""

import re

import pytest
from columns import rows, solved
from plants import plant, q

from wattaxis import check, edit, solve
from wattaxis.questions import column_specifications

PARTS = [("propane", "74-98-6"), ("n-butane", "106-97-8"), ("n-pentane", "109-66-0"), ("n-hexane", "110-54-3")]
PURE = {"product": "distillate", "component": "n-butane", "counts": "recovery", "value": q("98 %")}
DRY = {"product": "bottoms", "component": "n-butane", "counts": "mole fraction", "value": q("1 %")}


def splitter(spec, **units):
    given = {"temperature": q("330 K"), "pressure": q("8 bar"), "flow": q("100 mol/s"),
             "composition": {"basis": "mole_fraction", "values": {name: q("0.25") for name, _ in PARTS}}}  # fmt: skip
    built = {
        "stages": q("22"),
        "condenser": "total",
        "reboiler": "kettle",
        "top_pressure": q("7 bar"),
        "feeds": rows({"stream": "1", "stage": q("11")}),
    }
    made = {"F": ("feed", given), "T": ("staged-column", {**built, **spec}), "X": ("product", {}), "Y": ("product", {}), **units}
    return plant(PARTS, made, ["1: F.outlet -> T.inlet", "2: T.distillate -> X.inlet", "3: T.bottoms -> Y.inlet"], "peng-robinson")


def listed(document):
    result = solve(document)
    found = column_specifications(document, "T", result.units["T"].values)
    return found.taken, {one.text: one for one in found.all}


def test_rows_that_wait_are_told_and_settle_nothing():
    light = {"product": "distillate", "component": "n-pentane", "counts": "mole fraction", "use": "waiting"}
    warm = {"stage": q("15"), "use": "waiting"}
    document = splitter({"purities": rows(PURE, DRY, light), "temperatures": rows(warm)})
    result, values = solved(document)
    assert values["purities_3"] == pytest.approx(result.streams["2"].mole_fractions["n-pentane"], rel=1e-12)
    assert values["temperatures_1"] == result.units["T"].profiles[0].at("temperature", 15)
    taken, found = listed(document)
    assert taken == 2
    active = {text: one for text, one in found.items() if one.active}
    assert set(active) == {"Recovery of n-butane in the distillate", "Fraction of n-butane in the bottoms"}
    assert all(one.met for one in active.values())
    assert (found["Fraction of n-pentane in the distillate"].wanted, found["Fraction of n-pentane in the distillate"].met) == (None, None)
    assert found["Reflux ratio"].now == values["reflux_ratio"]


def test_what_waits_may_take_the_place_of_what_counts_and_the_column_stays_as_it_is():
    document = splitter({"purities": rows(PURE, DRY)})
    result, values = solved(document)
    before = result.units["T"].profiles[0]
    shares = {"Reflux ratio": "", "Distillate": "mol/s", "Heat added in the reboiler": "W", "Boil-up ratio": ""}
    for text, unit in shares.items():
        found = listed(document)[1]
        now = found[text].now
        swaps = [found["Recovery of n-butane in the distillate"].take_out,
                 {"kind": "set_values", "unit": "T", "values": {found[text].field: {"value": now, "unit": unit}}}]  # fmt: skip
        swapped = edit(document, "batch", edits=swaps, label="swap")
        again, told = solved(swapped)
        assert told["purities_1"] == pytest.approx(0.98, abs=1e-8)
        assert again.units["T"].profiles[0].column("temperature").values == pytest.approx(before.column("temperature").values, abs=1e-5)
        one = listed(swapped)[1]["Recovery of n-butane in the distillate"]
        assert (one.active, one.wanted, one.met) == (False, 0.98, None)
        back = edit(edit(swapped, **listed(swapped)[1][text].take_out), **one.take_in)
        assert back.unit("T").spec.purities.rows[0].cells["use"] == "specified"
        assert solved(back)[1]["reflux_ratio"] == pytest.approx(values["reflux_ratio"], rel=1e-9)


@pytest.mark.parametrize(("row", "kind", "value"), [
    ({"quality": "vapour pressure", "temperature": q("37.8 degC"), "pressure": q("0.9 bar")}, "pressure", 0.9e5),
    ({"quality": "boiling temperature", "temperature": q("45 degC"), "pressure": q("1.013 bar")}, "temperature", 318.15),
    ({"quality": "dew temperature", "temperature": q("60 degC"), "pressure": q("1.013 bar")}, "temperature", 333.15),
    ({"quality": "liquid density", "temperature": q("15 degC"), "pressure": q("1.013 bar"), "density": q("614 kg/m3")}, "density", 614.0),
])  # fmt: skip
def test_a_property_of_a_product_specifies_the_column(row, kind, value):
    document = splitter({"reflux_ratio": q("2"), "qualities": rows({"product": "bottoms", **row})})
    result, values = solved(document)
    assert values["qualities_1"] == pytest.approx(value, rel=1e-8)
    told = next(v for v in result.units["T"].values if v.key == "qualities_1")
    assert told.kind == kind
    assert told.title.startswith(row["quality"][0].upper() + row["quality"][1:])


def test_a_property_that_the_product_has_not_is_no_number_and_no_hang():
    row = {"product": "bottoms", "quality": "vapour pressure", "temperature": q("900 K"), "pressure": q("1 bar")}
    result = solve(splitter({"reflux_ratio": q("2"), "qualities": rows(row)}))
    assert any("that product has none" in f.text for f in result.findings if f.place == "T"), [f.text for f in result.findings]


def test_more_than_the_column_takes_counts_all_tables():
    spec = {"purities": rows(PURE, DRY), "temperatures": rows({"stage": q("3"), "temperature": q("330 K")})}
    document = splitter({**spec, "reflux_ratio": q("2")})
    fault = next(f for f in check(document).findings if "T has 4 specifications, and this column takes 2" in f.text)
    assert fault.repair_title == "Clear reflux ratio and let the last row wait"
    mended = edit(document, **fault.repair[0])
    assert solved(mended)[1]["temperatures_1"] > 300.0


def test_a_short_cut_counts_no_rows_that_wait():
    light = {"product": "distillate", "component": "n-butane", "counts": "recovery", "value": q("98 %")}
    heavy = {"product": "bottoms", "component": "n-pentane", "counts": "recovery", "value": q("98 %")}
    waits = {"product": "distillate", "component": "propane", "counts": "recovery", "use": "waiting"}
    spec = {"calculation": "short-cut", "stages": None, "reflux_ratio": q("3")}
    given = {k: v for k, v in spec.items() if v is not None}
    document = edit(splitter({**given, "purities": rows(light, heavy, waits)}), "set_values", unit="T", values={"stages": None})
    assert solved(document)[1]["stages_needed"] > 5.0
    assert column_specifications(document, "T").all == ()


def test_what_is_no_column_has_no_specifications():
    with pytest.raises(ValueError, match="no column X"):
        column_specifications(splitter({"purities": rows(PURE, DRY)}), "X")


def heavy(value):
    return {"product": "distillate", "component": "n-pentane", "counts": "mole fraction", "value": q(value)}


FEW = {"stages": q("9"), "feeds": rows()}


def fault_of(document):
    return next(f for f in solve(document).findings if f.severity == "fault")


@pytest.mark.parametrize("spec", [
    {"purities": rows({**PURE, "value": q("99.9 %")}, heavy("0.05 %"))},
    {"reflux_ratio": q("1.5"), "purities": rows(heavy("100 ppm"))},
    {"distillate_flow": q("50 mol/s"), "purities": rows(heavy("0.1 %"))},
    {"distillate_flow": q("50 mol/s"), "purities": rows(heavy("0.1 %")), "efficiency": q("70 %")},
])  # fmt: skip
def test_so_many_stages_as_are_told_do_and_one_less_does_not(spec):
    fault = fault_of(splitter({**spec, **FEW}))
    more, whole = (int(number) for number in re.search(r"at least (\d+) more stages? \((\d+) in all", fault.remedy).groups())
    assert whole == 9 + more
    assert fault.repair_title == f"Take {whole} stages"
    repaired, _ = solved(edit(splitter({**spec, **FEW}), "batch", edits=list(fault.repair), label="more"))

    def built(stages):
        return splitter({**spec, "stages": q(str(stages)), "feeds": rows({"stream": "1", "stage": q(str(round(4 * (stages - 1) / 8) + 1))})})

    assert solved(built(whole))[0].streams["2"].mole_flow == pytest.approx(repaired.streams["2"].mole_flow, rel=1e-9)
    assert not solve(built(whole - 1)).complete


@pytest.mark.parametrize(("spec", "ratio"), [
    ({"reflux_ratio": q("0.3"), "purities": rows(heavy("1 %"))}, "reflux_ratio"),
    ({"boil_up_ratio": q("0.5"), "purities": rows(DRY)}, "boil_up_ratio"),
])  # fmt: skip
def test_so_large_a_ratio_as_is_told_does_and_a_smaller_one_does_not(spec, ratio):
    fault = fault_of(splitter({**spec, **FEW}))
    least = float(re.search(r"ratio above ([\d.]+)", fault.remedy).group(1))
    solved(edit(splitter({**spec, **FEW}), "batch", edits=list(fault.repair), label="more"))
    assert not solve(splitter({**spec, **FEW, ratio: q(str(0.95 * least))})).complete


def test_reboilers_say_what_they_vaporise():
    spec = {"reflux_ratio": q("2"), "distillate_flow": q("50 mol/s")}
    kettle, plain = solved(splitter(spec))
    once, values = solved(splitter({**spec, "reboiler": "once through"}))
    assert values["reboiler_duty"] == plain["reboiler_duty"]
    assert 0.5 < values["vaporised_share"] < 0.9
    assert any("a thermosyphon takes about a third" in f.text for f in once.findings)
    result, round_ = solved(splitter({**spec, "reboiler": "circulating"}))
    assert next(a.value for a in result.assumptions if a.field == "vaporised") == 20.0
    assert 0.1 < round_["vaporised_share"] < 0.2  # by mass, and the vapour is lighter
    assert round_["bottom_temperature"] > plain["bottom_temperature"]
    assert result.streams["3"].vapour_fraction < 2e-3  # the hot liquid that returns and the light one from above hardly flash when they mix
    assert result.streams["3"].temperature < round_["bottom_temperature"]
    assert "vaporised_share" not in plain
    assert kettle.complete
