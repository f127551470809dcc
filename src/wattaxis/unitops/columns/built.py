"""The column of a unit as its givens say, of the components that are fed."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wattaxis.columns import ColumnFeed, PumpAround, Reactions, SideDraw, SideStripper, StagedColumn
from wattaxis.columns.layout import DECANTING, NONE, TOTAL
from wattaxis.properties.state import Vector
from wattaxis.reactions import Kinetics, KineticsError
from wattaxis.unitops.base import Finding, Givens, StreamState, UnitFault
from wattaxis.unitops.columns.names import (
    BACK,
    CIRCULATING,
    CONDENSERS,
    INLET,
    LIGHT_BACK,
    PARTED_FEED,
    RATIO,
    REBOILERS,
    TOTAL_CONDENSER,
    cell_si,
    draw_name,
    pump_name,
    rows_of,
    stage_of,
    stripper_name,
    whole_number,
)
from wattaxis.unitops.columns.parts import part_of
from wattaxis.unitops.table import GivenRow

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

Array = NDArray[np.float64]
#: Share by which a feed's pressure may lie below that of its stage.
_SLACK = 1e-6
#: K around a column where nothing is given.
AROUND = 298.15


class Built:
    """The column of a unit, of the components that are fed."""

    def __init__(self, givens: Givens, feeds: Sequence[StreamState], model: PropertyModel) -> None:
        self.givens, self.feeds, self.whole = givens, feeds, model
        self.condenser, self.reboiler = CONDENSERS[givens.option("condenser") or TOTAL_CONDENSER], givens.option("reboiler") in REBOILERS
        self.stages = whole_number(givens.si("stages") or 0.0, "stages", 200)
        fed = np.sum([stream.flows for stream in feeds], axis=0)
        made = self._made()
        self.ids = [c.id for c, flow in zip(model.components, fed, strict=True) if flow > 0.0 or c.id in made]
        self.model = part_of(model.fluid, tuple(self.ids))
        self._places = np.array([model.index(name) for name in self.ids])
        top, drop = givens.si("top_pressure") or 0.0, givens.si("pressure_drop") or 0.0
        if drop < 0.0:
            raise UnitFault(
                "The pressure would be higher at the top than at the bottom, and no vapour rises.", "Give a drop of 0 or more.", "pressure_drop"
            )
        self.P = self._pressures(top, drop)
        self.strippers = [self._stripper(row) for row in self.rows("strippers")]
        #: Number of stages, those of side strippers among them.
        self.every = self.stages + sum(stripper.stages for stripper in self.strippers)
        self.placed: list[tuple[str, int]] = []
        self.findings: list[Finding] = []
        self._place_feeds()

    def _place_feeds(self) -> None:
        tags = self.givens.tags.get(INLET, ())
        given: dict[str, int] = {}
        self.parted: set[str] = set()
        for row in self.rows("feeds"):
            tag = str(row.cells["stream"])
            if tag not in tags:
                came = ", ".join(tags) or "none"
                raise UnitFault(
                    f'No stream "{tag}" is fed to the column; there is {came}.', "Choose one of them, or remove the row.", f"feeds[{row.id}].stream"
                )
            if tag in given:
                raise UnitFault(f"{tag} has two stages.", "Remove one of the rows; parts of a stream come by a splitter.", f"feeds[{row.id}].stage")
            given[tag] = self.on_stage(cell_si(row.cells["stage"], "ordinal"), f"{tag} comes in", f"feeds[{row.id}].stage", self.every)
            if row.cells.get("enters") == PARTED_FEED:
                self.parted.add(tag)
        for tag, stream in zip(tags, self.feeds, strict=True):
            at = given.get(tag, (self.stages + 1) // 2)
            if tag not in given and stream.flow > 0.0:
                text = f"{tag} has no stage and was taken to come in half-way, on stage {at}."
                self.findings.append(Finding("caution", "", text, "Give the stage on which it comes in.", "feeds"))
            self.placed.append((tag, at))
            if at <= self.stages and stream.flow > 0.0 and stream.state.pressure < self.P[at - 1] * (1.0 - _SLACK):
                text = (
                    f"{tag} has {stream.state.pressure / 1e5:.4g} bar, and stage {at} {self.P[at - 1] / 1e5:.4g} bar: it does not flow in by itself."
                )
                self.findings.append(Finding("caution", "", text, "Pump it, or lower the pressure of the column.", "top_pressure"))

    def on_stage(self, value: float, what: str, field: str, most: int | None = None) -> int:
        """A stage of the column. Raises UnitFault for another."""
        return stage_of(value, most or self.stages, what, field)

    def _made(self) -> frozenset[str]:
        """Components of the reactions, where there are any."""
        if self.givens.raw("reactions") is None:
            return frozenset()
        return frozenset(self.givens.reaction_set("reactions").components)

    def _pressures(self, top: float, drop: float) -> Vector:
        """Pa by stage: the drop spread evenly, or straight between the stages whose pressure is given."""
        if self.stages == 1:
            return np.array([top])
        known = {1: top, self.stages: top + drop}
        for row in self.rows("pressures"):
            known[self.row_stage(row, "pressures")] = cell_si(row.cells["pressure"], "pressure")
        stages = sorted(known)
        found = np.interp(np.arange(1, self.stages + 1), stages, [known[j] for j in stages])
        if (np.diff(found) < 0.0).any():
            at = int(np.argmax(np.diff(found) < 0.0)) + 1
            text = f"The pressure falls from stage {at} to stage {at + 1}, and no vapour rises against it."
            raise UnitFault(text, "Give pressures that rise from the top down.", "pressures")
        return np.asarray(found)

    @cached_property
    def _efficiencies(self) -> Array:
        """Of Murphree by stage and component."""
        overall = self.givens.si("efficiency")
        found = np.full((self.stages, len(self.ids)), np.nan if overall is None else overall)
        for row in sorted(self.rows("efficiencies"), key=lambda row: "component" in row.cells):
            names = self.names(row, f"efficiencies[{row.id}]") or self.ids
            for name in names:
                found[self._span(row, "efficiencies"), self.ids.index(name)] = cell_si(row.cells["efficiency"], "fraction")
        if not ((found > 0.0) & (found <= 1.5)).all():
            raise UnitFault("A stage efficiency lies above 0 and is 100 % as a rule.", "Give such a one.", "efficiency")
        return found

    def in_equilibrium(self, at: int) -> bool:
        """Whether liquid and vapour of a stage (from 0) are in equilibrium: at the ends, on side strippers, and where the efficiency is 100 %.

        What circulates from a sump is not.
        """
        if at == self.stages - 1 and self.vaporised > 0.0:
            return False
        if at >= self.stages - 1 or (at == 0 and self.condenser != NONE):
            return True
        return bool((self._efficiencies[at] == 1.0).all())

    def _span(self, row: GivenRow, key: str) -> slice:
        """The stages of a row, from one to another."""
        first, last = (self.on_stage(cell_si(row.cells[k], "ordinal"), f"Row {row.id} is", f"{key}[{row.id}].{k}") for k in ("from", "to"))
        return slice(min(first, last) - 1, max(first, last))

    def _stripper(self, row: GivenRow) -> SideStripper:
        number = whole_number(cell_si(row.cells["stages"], "ordinal"), "stages of a side stripper", 50)
        source, target = (self._at(row, "strippers", key) for key in ("from", "to"))
        return SideStripper(stripper_name(row), number, source, target, reboiler="boil_up" in row.cells)

    def _at(self, row: GivenRow, table: str, key: str) -> int:
        return self.on_stage(cell_si(row.cells[key], "ordinal"), f"Row {row.id} is", f"{table}[{row.id}].{key}")

    @cached_property
    def kinetics(self) -> Kinetics | None:
        """The reactions, of the components of the column. Raises UnitFault for those that cannot be used."""
        if self.givens.raw("reactions") is None:
            return None
        try:
            return Kinetics(self.givens.reaction_set("reactions"), self.model)
        except KineticsError as error:
            raise UnitFault(str(error), "Mend it under Chemistry, Reactions.", "reactions") from error

    def _reactions(self) -> Reactions | None:
        kinetics = self.kinetics
        if kinetics is None:
            return None
        key, kind, what = ("catalyst", "mass", "catalyst") if kinetics.per == "catalyst mass" else ("liquid", "volume", "liquid")
        sizes, times = np.zeros(self.stages), np.zeros(self.stages)
        for row in self.rows("hold_ups"):
            on, field = self._span(row, "hold_ups"), f"hold_ups[{row.id}]"
            if key == "liquid" and "time" in row.cells:
                if key in row.cells:
                    text = f"Row {row.id} gives the liquid on each stage and its residence time, and one follows from the other."
                    raise UnitFault(text, "Clear one of the two.", f"{field}.time")
                times[on] = cell_si(row.cells["time"], "time")
                continue
            if key not in row.cells:
                text = f"The rates count by {'mass of catalyst' if key == 'catalyst' else 'volume'}, and row {row.id} gives no {what}."
                raise UnitFault(text, f"Give the {what} on each stage.", f"{field}.{key}")
            sizes[on] = cell_si(row.cells[key], kind)
        if not (sizes.any() or times.any()):
            raise UnitFault("Reactions are chosen, and no stage holds anything for them.", "Give the hold-up of the stages that react.", "hold_ups")
        return Reactions(kinetics, sizes, times)

    def column(self) -> StagedColumn:
        """As it is built. Raises ColumnError."""
        feeds = [feed for (tag, at), stream in zip(self.placed, self.feeds, strict=True) for feed in self._entering(tag, at, stream)]
        draws = [SideDraw(draw_name(row), self.row_stage(row, "draws"), str(row.cells["phase"])) for row in self.rows("draws")]
        pumps = [
            PumpAround(pump_name(row), self._at(row, "pump_arounds", "from"), self._at(row, "pump_arounds", "to"))
            for row in self.rows("pump_arounds")
        ]
        surroundings = self.givens.si("surroundings")
        return StagedColumn(
            self.model,
            feeds,
            stages=self.stages,
            pressure=self.P,
            condenser=self.condenser,
            reboiler=self.reboiler,
            draws=draws,
            pump_arounds=pumps,
            strippers=self.strippers,
            efficiencies=self._efficiencies,
            duties=self.heated(),
            subcooling=self.subcooling,
            reactions=self._reactions(),
            leaks=self.givens.si("heat_loss") or 0.0,
            surroundings=AROUND if surroundings is None else surroundings,
            back=BACK[self.givens.option("back") or LIGHT_BACK],
            vaporised=self.vaporised,
        )

    @property
    def vaporised(self) -> float:
        """Share of what circulates through the reboiler that is vaporised; 0 where nothing circulates."""
        return (self.givens.si("vaporised") or 0.0) if self.givens.option("reboiler") == CIRCULATING else 0.0

    @property
    def subcooling(self) -> float:
        """K by which what a total condenser gives is colder than it boils."""
        return (self.givens.si("subcooling") or 0.0) if self.condenser in (TOTAL, DECANTING) else 0.0

    def _entering(self, tag: str, at: int, stream: StreamState) -> list[ColumnFeed]:
        """A feed on its stage, or its vapour on the one above."""
        if stream.flow <= 0.0:
            return []
        share = stream.state.vapour_share
        if tag not in self.parted or at == 1 or not 0.0 < share < 1.0:
            return [ColumnFeed(at, self.own(stream.flows), stream.enthalpy_flow)]
        risen = StreamState(share * stream.flow, stream.state.part("vapour"))
        fallen = StreamState((1.0 - share) * stream.flow, stream.state.part("liquid"))
        return [ColumnFeed(k, self.own(part.flows), part.enthalpy_flow) for k, part in ((at - 1, risen), (at, fallen))]

    def heated(self) -> dict[int, float]:
        """W added by stage. Raises UnitFault where condenser or reboiler settle it."""
        found: dict[int, float] = {}
        for row in self.rows("heats"):
            at = self.row_stage(row, "heats")
            if (at == 1 and self.condenser != NONE) or (at == self.stages and self.reboiler):
                text = f"The heat of stage {at} is that of the {'condenser' if at == 1 else 'reboiler'}, which follows or is specified."
                raise UnitFault(text, "Remove the row.", f"heats[{row.id}].stage")
            found[at] = found.get(at, 0.0) + cell_si(row.cells["power"], "power")
        return found

    def rows(self, key: str) -> Sequence[GivenRow]:
        """The rows of a table."""
        return rows_of(self.givens.raw(key))

    def row_stage(self, row: GivenRow, key: str) -> int:
        """The stage of a row."""
        return self.on_stage(cell_si(row.cells["stage"], "ordinal"), f"Row {row.id} is", f"{key}[{row.id}].stage")

    def names(self, row: GivenRow, field: str, counts: str = "") -> tuple[str, ...]:
        """The components that a row speaks of."""
        keys = ("component", "over") if counts == RATIO else ("component",)
        names = tuple(str(row.cells[key]) for key in keys if key in row.cells)
        for key, name in zip(keys, names, strict=False):
            if name not in self.ids:
                raise UnitFault(f"Row {row.id} speaks of {name}, and none of it is fed.", "Choose a component that is fed.", f"{field}.{key}")
        return names

    def own(self, flows: Vector) -> Vector:
        """Of the flows of all components those that the column has."""
        return np.asarray(flows[self._places])

    def spread(self, flows: Vector) -> Vector:
        """Flows in the order of all components."""
        found = np.zeros(len(self.whole.components))
        found[self._places] = flows
        return found
