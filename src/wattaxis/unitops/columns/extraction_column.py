"""Extraction column: two liquids against each other, stage by stage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np

from wattaxis.columns import ColumnError, ColumnFeed, ColumnState, ExtractionColumn, NoColumnState
from wattaxis.columns.extraction import HEAVY, LIGHT
from wattaxis.properties import FlashError
from wattaxis.properties.settling import settling_density
from wattaxis.properties.state import Vector
from wattaxis.quantities import Quantity
from wattaxis.unitops.base import Choice, Field, Finding, Givens, Port, ResultValue, StreamState, UnitFault, UnitOperation, UnitResult, UnitSpec
from wattaxis.unitops.columns.names import FEEDS, HEATS, INLET, cell_si, rows_of, stage_of, whole_number
from wattaxis.unitops.columns.parts import part_of
from wattaxis.unitops.profile import Profile, ProfilePort, column
from wattaxis.unitops.registry import unit_operation
from wattaxis.unitops.table import GivenRow, GivenTable

if TYPE_CHECKING:
    from wattaxis.properties import PropertyModel

TOP, FOOT = "heavy_in", "light_in"
#: Products by what the column calls them.
PORTS = {LIGHT: "light", HEAVY: "heavy"}
#: Share of a density by which two liquids differ at least, or one hardly rises through the other.
_RISES = 0.02
#: The columns of the feeds: two liquids know no vapour that enters above.
_FEEDS = FEEDS[:2]


class ExtractionColumnSpec(UnitSpec):
    """Stages, pressure, stages of further feeds, heat on stages."""

    stages: Quantity | None = None
    pressure: Quantity | None = None
    feeds: GivenTable | None = None
    heats: GivenTable | None = None


@unit_operation
class ExtractionColumnUnit(UnitOperation):
    """Stages on which two liquids are in equilibrium."""

    type = "extraction-column"
    title = "Extraction column"
    symbol = "extractor"
    letter = "T"
    also = ("extractor", "liquid-liquid extraction", "solvent extraction", "scrubbing", "mixer-settler")
    family = "separation"
    drafts = drafts_tell_faults = True
    theory = (
        "On each stage two liquids leave in equilibrium, with equal fugacities of all components, and with the heat balance of the stage; all stages "
        "are solved at once by Newton's method (Naphtali, Sandholm 1971). The start are the two liquids into which all feeds together part. What is "
        "fed at the top sinks, what is fed at the foot rises. The property model has to know both liquids."
    )
    Spec = ExtractionColumnSpec
    ports = (
        Port(TOP, "Heavier feed, at the top", "in", place=(0.0, 0.15)),
        Port(FOOT, "Lighter feed, at the foot", "in", place=(0.0, 0.85)),
        Port(INLET, "Feeds between", "in", many=True, needed=False, place=(0.0, 0.5)),
        Port("light", "Lighter product", "out", place=(0.5, 0.0)),
        Port("heavy", "Heavier product", "out", place=(0.5, 1.0)),
    )
    fields = (
        Field("stages", "Stages", "ordinal", "in equilibrium, counted from the top"),
        Field("pressure", "Pressure", "pressure", "high enough that nothing boils; blank: the lowest of the feeds"),
        Field("feeds", "Stages of the feeds between", "table", "a stream without a row comes in half-way", columns=_FEEDS, most=20),
        Field("heats", "Heat on stages", "table", "of jackets and coolers", columns=HEATS, most=20),
    )
    choices = (Choice("Stages", ("stages",)),)

    def solve(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel, outlets: frozenset[str]) -> UnitResult:
        """All stages at once."""
        build = _Built(givens, inlets, model)
        hint = givens.hint
        near = hint if isinstance(hint, ColumnState) and hint.x.shape == (build.stages, len(build.ids)) else None
        try:
            built = ExtractionColumn(build.model, build.entering(), stages=build.stages, pressure=build.P, duties=build.duties())
            try:
                state = built.solve(near if givens.draft or givens.search else None)
            except NoColumnState:
                if not givens.draft:
                    raise
                return build.mixed()
        except ColumnError as error:
            raise UnitFault(error.text, error.remedy) from error
        return build.told(state)


class _Built:
    """The column of a unit, of the components that are fed. Raises UnitFault for what cannot be."""

    def __init__(self, givens: Givens, inlets: Mapping[str, Sequence[StreamState]], model: PropertyModel) -> None:
        self.givens, self.whole = givens, model
        self.stages = whole_number(givens.si("stages") or 0.0, "stages", 100)
        between = inlets.get(INLET, ())
        self.feeds = [inlets[TOP][0], inlets[FOOT][0], *between]
        self.tags = [*(givens.tags[port][0] for port in (TOP, FOOT)), *givens.tags.get(INLET, ())]
        if any(stream.state.solid_fraction > 0.0 for stream in self.feeds):
            raise UnitFault("Solids come in, and no stage takes them.", "Take them out first, by a filter.")
        for tag, stream, place in zip(self.tags, self.feeds, ("top", "foot"), strict=False):
            if stream.flow <= 0.0:
                raise UnitFault(f"{tag}, fed at the {place}, has no flow, and nothing is there to extract with.", "Check the feeds.")
        fed = np.sum([stream.flows for stream in self.feeds], axis=0)
        self.ids = [c.id for c, flow in zip(model.components, fed, strict=True) if flow > 0.0]
        self._places = np.array([model.index(name) for name in self.ids])
        self.model = part_of(model.fluid, tuple(self.ids))
        given = givens.si("pressure")
        self.P = min(stream.state.pressure for stream in self.feeds) if given is None else given
        self.findings: list[Finding] = []
        self.placed = [1, self.stages, *(self._between(tag) for tag in self.tags[2:])]

    def _between(self, tag: str) -> int:
        for row in rows_of(self.givens.raw("feeds")):
            if row.cells.get("stream") == tag and "stage" in row.cells:
                return self._on_stage(row, "feeds", f"{tag} comes in")
        at = (self.stages + 1) // 2
        text = f"{tag} has no stage and was taken to come in half-way, on stage {at}."
        self.findings.append(Finding("caution", "", text, "Give the stage on which it comes in.", "feeds"))
        return at

    def _on_stage(self, row: GivenRow, key: str, what: str) -> int:
        return stage_of(cell_si(row.cells["stage"], "ordinal"), self.stages, what, f"{key}[{row.id}].stage")

    def entering(self) -> list[ColumnFeed]:
        """What is fed, by stage."""
        pairs = zip(self.placed, self.feeds, strict=True)
        return [ColumnFeed(at, stream.flows[self._places], stream.enthalpy_flow) for at, stream in pairs if stream.flow > 0.0]

    def duties(self) -> dict[int, float]:
        """W added by stage."""
        found = dict[int, float]()
        for row in rows_of(self.givens.raw("heats")):
            at = self._on_stage(row, "heats", f"Row {row.id} is")
            found[at] = found.get(at, 0.0) + cell_si(row.cells["power"], "power")
        return found

    def _stream(self, flows: Vector, T: float, heat: float) -> StreamState:
        z, total = np.zeros(len(self.whole.components)), float(flows.sum())
        z[self._places] = flows
        try:
            return StreamState(total, self.whole.flash(z, P=self.P, H=heat / total, guess=T))
        except FlashError as error:
            raise UnitFault(f"A product has no state: {error}", "Look at the property model and the pressure.") from error

    def mixed(self) -> UnitResult:
        """What a loop goes on with where there is no state yet: all feeds together, parted."""
        flows = np.sum([stream.flows for stream in self.feeds], axis=0)
        heat, total = sum(stream.enthalpy_flow for stream in self.feeds) + sum(self.duties().values()), float(flows.sum())
        try:
            state = self.whole.flash(flows, P=self.P, H=heat / total)
        except FlashError as error:
            raise UnitFault(f"The feeds together have no state: {error}", "Look at the property model and the pressure.") from error
        parts = sorted(((share * total, liquid) for share, liquid in state.liquid_parts()), key=lambda part: settling_density(part[1]))
        if len(parts) < 2:
            parts = [(0.5 * total, state), (0.5 * total, state)]
        streams = {port: StreamState(flow, part) for port, (flow, part) in zip(("light", "heavy"), parts, strict=True)}
        outside = sum(stream.enthalpy_flow for stream in streams.values()) - heat + sum(self.duties().values())
        return UnitResult(streams, outside, provisional=True)

    def told(self, state: ColumnState) -> UnitResult:
        """Products, values, findings and the profile."""
        leaving = {PORTS[name]: self._stream(product.flows, product.T, product.enthalpy_flow) for name, product in state.products.items()}
        fed = np.sum([product.flows for product in state.products.values()], axis=0)
        risen = state.products[LIGHT].flows
        values = [
            ResultValue("top_temperature", "Temperature of the first stage", "temperature", float(state.T[0])),
            ResultValue("bottom_temperature", "Temperature of the last stage", "temperature", float(state.T[-1])),
            *(
                ResultValue("recovery", "Share in the lighter product", "fraction", float(r / f), n)
                for n, r, f in zip(self.ids, risen, fed, strict=True)
            ),
        ]
        if not self.givens.draft:
            self.findings += self._doubts(state, leaving)
        profiles = () if self.givens.draft else (self._profile(state),)
        outside = float(sum(self.duties().values()))
        return UnitResult(leaving, outside, tuple(values), tuple(self.findings), profiles=profiles, hint=state)

    def _doubts(self, state: ColumnState, leaving: Mapping[str, StreamState]) -> list[Finding]:
        found = []
        light, heavy = (settling_density(leaving[port].state) for port in ("light", "heavy"))
        if light > heavy * (1.0 - _RISES):
            text = f"The liquid that is to rise has {light:.4g} kg/m3, the one that is to sink {heavy:.4g} kg/m3: they do not go these ways."
            found.append(Finding("caution", "", text, "Feed the heavier one at the top, or look for another solvent.", ""))
        for T, x in ((state.T[0], state.x[0]), (state.T[-1], state.x[-1])):
            try:
                boils = self.model.flash(x, T=float(T), VF=0.0).pressure
            except FlashError:
                continue
            if boils > self.P:
                text = f"At {T:.5g} K the liquids boil at {boils / 1e5:.4g} bar, and the column has {self.P / 1e5:.4g} bar."
                found.append(Finding("caution", "", text, "Give a higher pressure, or cool the feeds.", "pressure"))
                break
        return found

    def _profile(self, state: ColumnState) -> Profile:
        columns = [
            column("temperature", "Temperature", "temperature", state.T),
            column("heavy_flow", "Heavy", "mole_flow", state.liquid, group="Flow"),
            column("light_flow", "Light", "mole_flow", state.vapour, group="Flow"),
            *(column("heavy_fraction", "Mole fraction, heavy", "fraction", state.x[:, i], name) for i, name in enumerate(self.ids)),
            *(column("light_fraction", "Mole fraction, light", "fraction", state.y[:, i], name) for i, name in enumerate(self.ids)),
            *(column("distribution", "Distribution ratio", "number", state.K[:, i], name) for i, name in enumerate(self.ids)),
            column("heat", "Heat added", "power", state.duties),
        ]
        ports = [ProfilePort(port, float(at)) for port, at in ((TOP, 1), (FOOT, self.stages), ("light", 1), ("heavy", self.stages))]
        ports += [ProfilePort(INLET, float(at), stream=tag) for tag, at in zip(self.tags[2:], self.placed[2:], strict=True)]
        along = column("stage", "Stage", "number", np.arange(1.0, self.stages + 1.0))
        return Profile("stages", "Stage by stage", along, tuple(columns), ports=tuple(ports), steps=True)
