"""Staged column: distillation, absorption, stripping, with what is wanted of it in the place of what a solver likes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from wattaxis.columns import ColumnError, ColumnState, NoColumnState, StagedColumn, Want
from wattaxis.columns.layout import DECANTING, NONE, PARTIAL, TOTAL
from wattaxis.columns.qualities import DENSITY
from wattaxis.equipment.column_inside import PACKINGS, stage_height
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Ask, Choice, Field, Finding, Givens, Port, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.columns.built import Built
from wattaxis.unitops.columns.inside import INSIDES, TRAYS
from wattaxis.unitops.columns.names import (
    BACK,
    BY_STAGES,
    CIRCULATING,
    CONDENSER_HEAT,
    CONDENSERS,
    DECANTER,
    DRAWS,
    EFFICIENCIES,
    FEEDS,
    HEATS,
    HEAVY,
    HOLD_UPS,
    INLET,
    LIQUID,
    MIXED_CONDENSER,
    NO_CONDENSER,
    NO_REBOILER,
    PARTIAL_CONDENSER,
    PRESSURES,
    PUMP_AROUNDS,
    PURITIES,
    QUALITIES,
    RATIO,
    REBOILER_HEAT,
    REBOILERS,
    SHARE,
    SHORT_CUT,
    SINGLE,
    STRIPPERS,
    TABLES,
    TEMPERATURES,
    TOTAL_CONDENSER,
    VALUES,
    VAPOUR,
    WAITING,
    bare,
    ends,
    freedom,
    possible,
    rows_of,
    specifying,
    with_stages,
)
from wattaxis.unitops.columns.nearby import NearbyColumn
from wattaxis.unitops.columns.short_cut import by_short_cut
from wattaxis.unitops.columns.specified import wants_of
from wattaxis.unitops.columns.told import on_the_way, told
from wattaxis.unitops.pressures import PressureSide
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import GivenRow, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel


class StagedColumnSpec(UnitSpec):
    """How it is calculated, stages, condenser, reboiler, pressures, feeds, draws, and as many specifications as the column has freedom."""

    calculation: str | None = None
    stages: Quantity | None = None
    condenser: str | None = None
    back: str | None = None
    reboiler: str | None = None
    vaporised: Quantity | None = None
    top_pressure: Quantity | None = None
    pressure_drop: Quantity | None = None
    pressures: GivenTable | None = None
    feeds: GivenTable | None = None
    draws: GivenTable | None = None
    pump_arounds: GivenTable | None = None
    strippers: GivenTable | None = None
    reflux_ratio: Quantity | None = None
    boil_up_ratio: Quantity | None = None
    distillate_flow: Quantity | None = None
    vapour_flow: Quantity | None = None
    bottoms_flow: Quantity | None = None
    condenser_duty: Quantity | None = None
    reboiler_duty: Quantity | None = None
    purities: GivenTable | None = None
    temperatures: GivenTable | None = None
    qualities: GivenTable | None = None
    heats: GivenTable | None = None
    efficiency: Quantity | None = None
    efficiencies: GivenTable | None = None
    heat_loss: Quantity | None = None
    surroundings: Quantity | None = None
    reactions: str | None = None
    hold_ups: GivenTable | None = None
    subcooling: Quantity | None = None
    inside: str | None = None
    tray_spacing: Quantity | None = None
    flooding: Quantity | None = None
    diameter: Quantity | None = None
    stage_height: Quantity | None = None


#: Passes of a loop after which a column without a state is looked for by the long ways.
_NOW_AND_THEN = 4
#: Looks at the equations on the way through a loop, where streams may be far from theirs, at most.
_DRAFTED = 300
COOLED = (TOTAL_CONDENSER, PARTIAL_CONDENSER, MIXED_CONDENSER, DECANTER)


def _beside(options: tuple[str, ...], field: str = "condenser") -> dict[str, Any]:
    """Of a field that has a meaning with these condensers, or reboilers."""
    return {"beside": field, "among": options}


#: What is asked for where liquid circulates through the reboiler.
CIRCULATION = Choice("Share vaporised in the reboiler", ("vaporised",), 1, ("vaporised", Quantity(value=20.0, unit="%"), "usual for a thermosyphon"))
#: What is asked for where the inside is sized, with what is usual.
SPACING = Choice("Tray spacing", ("tray_spacing",), 1, ("tray_spacing", Quantity(value=0.6, unit="m"), "usual for columns one can enter"))
SIZE = Choice("Diameter", ("flooding", "diameter"), 1, ("flooding", Quantity(value=80.0, unit="%"), "some way from flooding, as is usual"))


def _height(packing: str) -> Choice:
    """What is asked for of a packing, with what is usual for one of its size."""
    usual = Quantity(value=stage_height(packing) if packing in PACKINGS else 0.5, unit="m")
    return Choice("Height per stage", ("stage_height",), 1, ("stage_height", usual, "18 times the size of the packing, as a rule (Kister 1992)"))


@dataclass(frozen=True)
class Missed:
    """A column of which no state was found so many times on the way through a loop."""

    times: int


@unit_operation
class StagedColumnUnit(UnitOperation):
    """A column of equilibrium stages, solved as a whole."""

    type = "staged-column"
    title = "Column"
    symbol = "column"
    letter = "T"
    also = ("distillation", "absorber", "stripper", "rectifier", "tower", "fractionator", "scrubber")
    family = "separation"
    drafts = drafts_tell_faults = True
    theory = (
        "The balances, equilibria and heat balances of all stages are solved at once by Newton's method (Naphtali, Sandholm 1971), with what is "
        "specified among the equations. The start is a short-cut one: Fenske's distribution, constant molal overflow and bubble points. Murphree's "
        "efficiency of the vapour counts on every stage but condenser, reboiler and the lowest. Stages count from the top, with the condenser as the "
        "first and the reboiler as the last where they are there; those of side strippers count on. Pump-arounds and side strippers are solved with "
        "the column. Where the liquid of a stage parts in two, both liquids are in equilibrium with the vapour; a decanter sends one of them back. "
        "Reactions go in the liquid at the rates of its composition and temperature."
    )
    Spec = StagedColumnSpec
    ports = (
        Port(INLET, "Feeds", "in", many=True, place=(0.0, 0.5)),
        Port(VAPOUR, "Overhead vapour", "out", needed=False, place=(0.5, 0.0)),
        Port(LIQUID, "Distillate", "out", place=(1.0, 0.15)),
        Port(HEAVY, "Bottoms", "out", place=(0.5, 1.0)),
        Port(CONDENSER_HEAT, "Heat of the condenser", "out", needed=False, place=(1.0, 0.05), kind="heat"),
        Port(REBOILER_HEAT, "Heat of the reboiler", "in", needed=False, place=(1.0, 0.95), kind="heat"),
    )
    fields = (
        Field("calculation", "Calculated", "option", "a short-cut takes the recoveries of two keys", options=(BY_STAGES, SHORT_CUT)),
        Field("stages", "Stages", "ordinal", "condenser and reboiler among them"),
        Field("condenser", "Condenser", "option", options=tuple(CONDENSERS)),
        Field("back", "What goes back", "option", "blank: the lighter liquid", options=tuple(BACK), **_beside((DECANTER,))),
        Field("reboiler", "Reboiler", "option", options=(*REBOILERS, NO_REBOILER)),
        Field("vaporised", "Share vaporised in the reboiler", "fraction", "of what circulates, in moles", **_beside((CIRCULATING,), "reboiler")),
        Field("top_pressure", "Pressure at the top", "pressure"),
        Field("pressure_drop", "Pressure drop", "pressure_difference", "from the first to the last stage, the same on each"),
        Field("pressures", "Pressures of stages", "table", "straight between them", columns=PRESSURES, most=20),
        Field("feeds", "Stages of the feeds", "table", "a stream without a row comes in half-way", columns=FEEDS, most=20),
        Field("draws", "Side draws", "table", "each has a port", columns=DRAWS, most=10),
        Field("pump_arounds", "Pump-arounds", "table", "liquid that is cooled and given back", columns=PUMP_AROUNDS, most=10),
        Field("strippers", "Side strippers", "table", "each has a port for its product", columns=STRIPPERS, most=6),
        Field("reflux_ratio", "Reflux ratio", "number", "what goes back over all that leaves at the condenser, in moles", **_beside(COOLED)),
        Field("boil_up_ratio", "Boil-up ratio", "number", "vapour from the reboiler over the bottoms, in moles", **_beside(REBOILERS, "reboiler")),
        Field("distillate_flow", "Distillate", "mole_flow", **_beside((TOTAL_CONDENSER, MIXED_CONDENSER, DECANTER))),
        Field("vapour_flow", "Overhead vapour", "mole_flow", **_beside((PARTIAL_CONDENSER, MIXED_CONDENSER, NO_CONDENSER))),
        Field("bottoms_flow", "Bottoms", "mole_flow"),
        Field("condenser_duty", "Heat added in the condenser", "power", "negative: it is taken", **_beside(COOLED)),
        Field("reboiler_duty", "Heat added in the reboiler", "power", **_beside(REBOILERS, "reboiler")),
        Field("purities", "Purities and recoveries", "table", "each row is one specification", columns=PURITIES, most=6),
        Field("temperatures", "Temperatures of stages", "table", "each row is one specification", columns=TEMPERATURES, most=4),
        Field("qualities", "Properties of products", "table", "each row is one specification", columns=QUALITIES, most=4),
        Field("heats", "Heat on stages", "table", "of side heaters and coolers", columns=HEATS, most=20),
        Field("efficiency", "Stage efficiency", "fraction", "of Murphree, for the vapour"),
        Field("efficiencies", "Efficiencies of sections", "table", "in the place of that of all", columns=EFFICIENCIES, most=20),
        Field("heat_loss", "Heat loss per stage", "conductance", "heat over the difference to the surroundings; none in the condenser"),
        Field("surroundings", "Surroundings", "temperature", "blank: 25 degC", beside="heat_loss"),
        Field("reactions", "Reactions", "reactions", "a set written under Chemistry, in the liquid"),
        Field("hold_ups", "Stages that react", "table", "what each holds", columns=HOLD_UPS, most=20, beside="reactions"),
        Field(
            "subcooling",
            "Subcooling of the distillate",
            "temperature_difference",
            "below its boiling point",
            beside="condenser",
            among=(TOTAL_CONDENSER, DECANTER),
        ),
        Field("inside", "Inside", "option", "blank: nothing is sized", options=INSIDES),
        Field("tray_spacing", "Tray spacing", "length", **_beside((TRAYS,), "inside")),
        Field("flooding", "Load at most", "fraction", "of that at which it floods", **_beside(INSIDES, "inside")),
        Field("diameter", "Diameter", "length", **_beside(INSIDES, "inside")),
        Field("stage_height", "Height per stage", "length", "of packing that does what a stage does", **_beside(tuple(PACKINGS), "inside")),
    )
    pressures = (PressureSide("top_pressure", ports=(VAPOUR, LIQUID)),)
    choices = (
        Choice("Calculated", ("calculation",), 1, ("calculation", BY_STAGES, "no short-cut was asked for")),
        Choice("Stages", ("stages",)),
        Choice("Condenser", ("condenser",)),
        Choice("Reboiler", ("reboiler",)),
        Choice("Pressure at the top", ("top_pressure",)),
        Choice("Pressure drop", ("pressure_drop",), 1, ("pressure_drop", Quantity(value=0.0, unit="bar"), "no pressure drop was given")),
        Choice("Stage efficiency", ("efficiency",), 1, ("efficiency", Quantity(value=100.0, unit="%"), "stages in equilibrium")),
        Choice("Specifications", tuple(SINGLE), 2, port=REBOILER_HEAT),
    )

    def ports_of(self, spec: UnitSpec) -> tuple[Port, ...]:
        """Of the products and heats that condenser, reboiler and draws bring with them."""
        condenser, reboiler = ends(spec)
        gone = {VAPOUR} if condenser in (TOTAL, DECANTING) else {LIQUID} if condenser in (PARTIAL, NONE) else set()
        gone |= ({CONDENSER_HEAT} if condenser == NONE else set()) | (set() if reboiler else {REBOILER_HEAT})
        rows = rows_of(getattr(spec, "draws", None))
        sides = tuple(Port(f"draw_{row.id}", f"Draw {k}", "out", place=(1.0, 0.25 + 0.5 * k / (len(rows) + 1))) for k, row in enumerate(rows, 1))
        below = rows_of(getattr(spec, "strippers", None))
        sides += tuple(
            Port(f"stripper_{row.id}", f"Product of side stripper {k}", "out", place=(1.0, 0.3 + 0.5 * k / (len(below) + 1)))
            for k, row in enumerate(below, 1)
        )
        return (*(port for port in self.ports if port.key not in gone), *sides)

    def choices_of(self, spec: UnitSpec) -> tuple[Choice, ...]:
        """As many specifications as the column has freedom, less those that tables hold."""
        condenser, reboiler = ends(spec)
        if getattr(spec, "calculation", None) == SHORT_CUT:
            left_out = ("Stages", "Stage efficiency", "Specifications")
            always = tuple(choice for choice in self.choices if choice.title not in left_out)
            return (*always, Choice("Stages or reflux ratio", ("stages", "reflux_ratio")), Choice("Purities and recoveries", ("purities",)))
        inside = getattr(spec, "inside", None)
        circulates = (CIRCULATION,) if getattr(spec, "reboiler", None) == CIRCULATING else ()
        sizes = () if inside is None else (SPACING, SIZE) if inside == TRAYS else (_height(inside), SIZE)
        able = [key for key in SINGLE if possible(key, condenser, reboiler)]
        left = freedom(condenser, reboiler) - len(specifying(spec))
        fixed = (*self.choices[:-1], *circulates, *sizes)
        return (*fixed, Choice("Specifications", tuple(able), left, port=REBOILER_HEAT if reboiler else "")) if left > 0 else fixed

    def asks(self, tag: str, spec: UnitSpec, component_ids: Sequence[str], connected: frozenset[str]) -> list[Ask]:
        """The choices, and what is blank in the rows of its tables."""
        found = super().asks(tag, spec, component_ids, connected)
        for key, (columns, may_be_blank) in TABLES.items():
            for number, row in enumerate(rows_of(getattr(spec, key, None)), 1):
                measured = VALUES.get(key, frozenset()) if row.cells.get("use") == WAITING else frozenset[str]()
                for blank in (c for c in columns if c.key not in row.cells and c.key not in may_be_blank | measured):
                    found.append(self._ask(tag, key, number, row, blank.key, blank.title))
                for needed, title in _also(key, row):
                    found.append(self._ask(tag, key, number, row, needed, title))
        return found

    def _ask(self, tag: str, key: str, number: int, row: GivenRow, blank: str, title: str) -> Ask:
        text = f"{tag} needs the {title.lower()} in row {number} of its {self.field_map()[key].title.lower()}."
        return Ask(tag, text, (f"{key}[{row.id}].{blank}",))

    def excess(self, tag: str, spec: UnitSpec, connected: frozenset[str] = frozenset()) -> list[Finding]:
        """Quarrels of the choices, and more specifications than the column has freedom."""
        found = super().excess(tag, spec, connected)
        if getattr(spec, "calculation", None) == SHORT_CUT:
            return found
        condenser, reboiler = ends(spec)
        single = [key for key in SINGLE if getattr(spec, key, None) is not None and possible(key, condenser, reboiler)]
        rows, free = specifying(spec), freedom(condenser, reboiler)
        if len(rows) > free or (len(rows) == free and single):
            titles = self.field_map()
            text = f"{tag} has {len(rows) + len(single)} specifications, and this column takes {free or 'none'}."
            # Rows come first: what is typed in fields goes, and of rows alone the last ones wait.
            values: dict[str, Any] = dict.fromkeys(single) | {f"{path}.use": WAITING for path in rows[free:]}
            parts = [f"clear {' and '.join(titles[key].title.lower() for key in single)}"] if single else []
            parts += ["let the last row wait" if len(rows) == free + 1 else "let the last rows wait"] if len(rows) > free else []
            title = " and ".join(parts)
            title = title[:1].upper() + title[1:]
            repair = ({"kind": "set_values", "unit": tag, "values": values},)
            found.append(Finding("fault", tag, text, "Clear what is too much.", "purities" if not single else single[-1], repair, title))
        return found

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """All stages at once."""
        feeds = inlets[INLET]
        if any(stream.state.solid_fraction > 0.0 for stream in feeds):
            raise UnitFault("Solids come in, and no stage takes them.", "Take them out first, by a filter or a cyclone.")
        if not any(stream.flow > 0.0 for stream in feeds):
            raise UnitFault("Nothing is fed to the column.", "Check the feeds.")
        if givens.option("calculation") == SHORT_CUT:
            return by_short_cut(givens, feeds, model)
        build = Built(givens, feeds, model)
        hint = givens.hint
        near = hint if isinstance(hint, ColumnState) and hint.x.shape == (build.every, len(build.ids)) else None
        missed = hint.times if isinstance(hint, Missed) else 0
        try:
            staged, wants = build.column(), wants_of(build)
            try:
                state = _solved(staged, wants, near, givens, missed)
            except NoColumnState as error:
                if not givens.draft:
                    raise _explained(error, staged, wants, build) from error
                return replace(on_the_way(build, givens, staged, wants), hint=Missed(missed + 1))
        except ColumnError as error:
            raise UnitFault(error.text, error.remedy) from error
        result = told(build, givens, staged, state)
        return replace(result, nearby=NearbyColumn(build, givens, staged, wants, state)) if givens.draft else result


def _also(key: str, row: GivenRow) -> list[tuple[str, str]]:
    """What a row needs beside what all rows of its table need: keys with titles."""
    cells, needed = row.cells, list[tuple[str, str]]()
    if key == "qualities" and cells.get("quality") == DENSITY and cells.get("use") != WAITING:
        needed = [("density", "density")]
    if key in ("draws", "strippers") and "flow" not in cells:
        needed = (
            [("flow", "flow")] if "component" not in cells and "purity" not in cells else [("component", "component"), ("purity", "mole fraction")]
        )
    if key == "purities" and "counts" in cells:
        needed += [("component", "component")] if cells["counts"] != SHARE else []
        needed += [("over", "component over which the ratio is")] if cells["counts"] == RATIO else []
    return [(name, title) for name, title in needed if name not in cells]


def _explained(error: NoColumnState, column: StagedColumn, wants: Sequence[Want], build: Built) -> UnitFault:
    """Why there is no state; of an answer with what would do, where more stages or reflux may help."""
    if not error.more or build.givens.search:
        return UnitFault(error.text, error.remedy)
    advice = column.advise(wants)
    repair: tuple[dict[str, Any], ...] = ()
    title = ""
    if advice.stages is not None:
        repair, title = with_stages(build.givens, build.placed, advice.stages), f"Take {advice.stages} stages"
    elif advice.ratio is not None:
        value = float(f"{1.01 * advice.ratio:.3g}")
        values = {advice.ratio_of.replace("-", "_").replace(" ", "_"): bare(value)}
        repair, title = ({"kind": "set_values", "unit": "", "values": values},), f"Take a {advice.ratio_of} of {value:g}"
    return UnitFault(error.text, advice.text or error.remedy, repair=repair, title=title)


def _solved(column: StagedColumn, wants: Sequence[Want], near: ColumnState | None, givens: Givens, missed: int) -> ColumnState:
    """On the way through a loop or to an aim from the state before; the answer from nothing, so that of several states the one is told that the
    document has.

    Where the streams of a loop allow no state yet, the long ways to one are gone only now and then.
    """
    if givens.draft:
        return column.solve(wants, near, brief=missed % _NOW_AND_THEN != _NOW_AND_THEN - 1, most=_DRAFTED)
    if givens.search:
        return column.solve(wants, near)
    try:
        return column.solve(wants)
    except ColumnError:
        if near is None:
            raise
        return column.solve(wants, near)
