"""The editing operations as plain data. What they do stands in :mod:`wattaxis.flowsheet.edits`."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from wattaxis.flowsheet.asked import Aim, Study, Tag
from wattaxis.flowsheet.chemistry import ConstantName, DocumentComponent, Finite, Id, ModelName, OwnVapourPressure, Quality, TypedCurve, VapourName
from wattaxis.flowsheet.data import KeptFit, Measured
from wattaxis.flowsheet.document import Area, Note, OwnUnits, SheetTable, Stream, Unit
from wattaxis.flowsheet.pieces import Piece
from wattaxis.flowsheet.reactions import TypedReaction, TypedReactionSet
from wattaxis.quantities import Quantity
from wattaxis.unitops.table import RowId


class EditError(ValueError):
    """An edit that cannot be made; ``str()`` says why and what would be accepted.

    >>> from wattaxis import Document, edit
    >>> try:
    ...     edit(Document(), "remove_unit", tag="E-101")
    ... except EditError as error:
    ...     print(error)
    There is no unit E-101 on the sheet.
    """


class _Edit(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class SetTitle(_Edit):
    """Name the plant."""

    kind: Literal["set_title"] = "set_title"
    title: str = Field(max_length=120)


class SetUnitSet(_Edit):
    """Choose the units in which results are shown."""

    kind: Literal["set_unit_set"] = "set_unit_set"
    name: str = Field(max_length=60)


class AddComponent(_Edit):
    """Add a component, at ``position`` or at the end."""

    kind: Literal["add_component"] = "add_component"
    component: DocumentComponent
    position: int | None = None


class RemoveComponent(_Edit):
    """Take a component out; flows typed for it stay in the document."""

    kind: Literal["remove_component"] = "remove_component"
    id: Id


class SetConstant(_Edit):
    """Put a value of one's own in the place of a constant of the bank; without ``value`` the bank's counts again."""

    kind: Literal["set_constant"] = "set_constant"
    id: Id
    name: ConstantName
    value: Quantity | None = None


class SetPrice(_Edit):
    """Say what a component is worth by mass; without ``price`` it has none."""

    kind: Literal["set_price"] = "set_price"
    id: Id
    price: Quantity | None = None


class SetStandsFor(_Edit):
    """Say what a component stands in for on purpose; without a text it stands for itself."""

    kind: Literal["set_stands_for"] = "set_stands_for"
    id: Id
    text: str = Field(default="", max_length=120)


class SetCurve(_Edit):
    """Give a component a property over temperature of one's own; without ``curve`` the bank's counts again."""

    kind: Literal["set_curve"] = "set_curve"
    id: Id
    name: str = Field(max_length=40)
    curve: TypedCurve | None = None


class SetVapourPressure(_Edit):
    """Give a component a vapour pressure of one's own; without one the bank's counts again."""

    kind: Literal["set_vapour_pressure"] = "set_vapour_pressure"
    id: Id
    vapour_pressure: OwnVapourPressure | None = None


class SetModel(_Edit):
    """Choose the property model, the vapour over an activity model, and whether a cubic equation shifts its volumes; what is left out stays."""

    kind: Literal["set_model"] = "set_model"
    model: ModelName | None = None
    vapour: VapourName | None = None
    translated: bool | None = None


class SetUnitModel(_Edit):
    """Let a unit use another property model than the plant's; without ``model`` it uses the plant's again."""

    kind: Literal["set_unit_model"] = "set_unit_model"
    tag: Tag
    model: ModelName | None = None


class SetPair(_Edit):
    """Give own interaction parameters of a pair for a model, the chosen one where none is named; without ``values`` they go away."""

    kind: Literal["set_pair"] = "set_pair"
    first: Id
    second: Id
    model: ModelName | None = None
    values: dict[str, Finite] | None = None
    source: str = Field(default="typed in", max_length=200)
    quality: Quality = "typed in"


class SetPin(_Edit):
    """Keep a formula over results in sight under a name; without ``formula`` the pin goes away."""

    kind: Literal["set_pin"] = "set_pin"
    name: str = Field(min_length=1, max_length=60)
    formula: str | None = None
    position: int | None = None


class SetAim(_Edit):
    """Put an aim in the place of the one of its name, or add it; without ``aim`` it goes away."""

    kind: Literal["set_aim"] = "set_aim"
    name: str = Field(min_length=1, max_length=60)
    aim: Aim | None = None
    position: int | None = None


class SetStudy(_Edit):
    """Put a study in the place of the one of its name, or add it; without ``study`` it goes away."""

    kind: Literal["set_study"] = "set_study"
    name: str = Field(min_length=1, max_length=60)
    study: Study | None = None
    position: int | None = None


class SetData(_Edit):
    """Put a set of measured data in the place of the one of its name, or add it; without ``data`` the set goes away."""

    kind: Literal["set_data"] = "set_data"
    name: str = Field(min_length=1, max_length=60)
    data: Measured | None = None
    position: int | None = None


class SetFit(_Edit):
    """Keep a fit under its name; without ``fit`` it goes away."""

    kind: Literal["set_fit"] = "set_fit"
    name: str = Field(min_length=1, max_length=60)
    fit: KeptFit | None = None
    position: int | None = None


class SetReactions(_Edit):
    """Add, replace or (without ``reactions``) take out a set of reactions; units that use it follow another name."""

    kind: Literal["set_reactions"] = "set_reactions"
    name: str = Field(min_length=1, max_length=60)
    reactions: TypedReactionSet | None = None
    position: int | None = None


class SetReaction(_Edit):
    """Add, replace or (without ``reaction``) take out one reaction of a set."""

    kind: Literal["set_reaction"] = "set_reaction"
    of: str = Field(min_length=1, max_length=60)
    name: str = Field(min_length=1, max_length=60)
    reaction: TypedReaction | None = None
    position: int | None = None


class AddUnit(_Edit):
    """Put a unit on the sheet."""

    kind: Literal["add_unit"] = "add_unit"
    unit: Unit
    position: int | None = None


class RemoveUnit(_Edit):
    """Take a unit off the sheet together with its streams."""

    kind: Literal["remove_unit"] = "remove_unit"
    tag: Tag


class Connect(_Edit):
    """Draw a stream from an outlet to an inlet."""

    kind: Literal["connect"] = "connect"
    stream: Stream
    position: int | None = None


class Disconnect(_Edit):
    """Take a stream away."""

    kind: Literal["disconnect"] = "disconnect"
    tag: Tag


class SetValues(_Edit):
    """Give or clear (None) values of a unit by their paths ("duty", "shares[ethanol]", "curve[2].head"), several at once where a choice changes."""

    kind: Literal["set_values"] = "set_values"
    unit: Tag
    values: dict[str, Any]


class SetRow(_Edit):
    """Put a row in the place of the one of its id in a table of a unit, or add it, at ``position`` or at the end; without ``cells`` it goes away.

    Without ``row`` a new one is added under the next free number.
    """

    kind: Literal["set_row"] = "set_row"
    unit: Tag
    field: str = Field(max_length=40)
    row: RowId | None = None
    cells: dict[str, Any] | None = None
    position: int | None = None


class Rename(_Edit):
    """Give a unit or a stream another tag, everywhere."""

    kind: Literal["rename"] = "rename"
    tag: Tag
    new: Tag


class Move(_Edit):
    """Move symbols on the sheet: tag to (x, y)."""

    kind: Literal["move"] = "move"
    places: dict[Tag, tuple[float, float]]


class Flip(_Edit):
    """Mirror symbols left to right on the sheet, or back."""

    kind: Literal["flip"] = "flip"
    tags: tuple[Tag, ...] = Field(min_length=1, max_length=2000)


class Turn(_Edit):
    """Turn symbols clockwise on the sheet, by so many quarters."""

    kind: Literal["turn"] = "turn"
    tags: tuple[Tag, ...] = Field(min_length=1, max_length=2000)
    quarters: Literal[1, 2, 3] = 1


class SetTable(_Edit):
    """Put a table of results on the sheet in the place of the one of its name, or add it; without ``table`` it goes away."""

    kind: Literal["set_table"] = "set_table"
    name: str = Field(min_length=1, max_length=60)
    table: SheetTable | None = None
    position: int | None = None


class SetNote(_Edit):
    """Put a note on the sheet in the place of the one of its name, or add it; without ``note`` it goes away."""

    kind: Literal["set_note"] = "set_note"
    name: str = Field(min_length=1, max_length=60)
    note: Note | None = None
    position: int | None = None


class SetArea(_Edit):
    """Draw an area of the plant in the place of the one of its name, or add it; without ``area`` it goes away."""

    kind: Literal["set_area"] = "set_area"
    name: str = Field(min_length=1, max_length=60)
    area: Area | None = None
    position: int | None = None


class SetShown(_Edit):
    """Say which calculated values stand beside a unit or stream, by its tag, or beside all of a type ("stream" for streams); empty: none."""

    kind: Literal["set_shown"] = "set_shown"
    of: str = Field(min_length=1, max_length=40)
    keys: tuple[str, ...] | None = Field(default=None, max_length=12)


class SetTear(_Edit):
    """Tear a stream where it lies in a loop, or leave the choice to the program again."""

    kind: Literal["set_tear"] = "set_tear"
    tag: Tag
    torn: bool = True


class SetUnits(_Edit):
    """Keep a set of display units of one's own under its name, or remove it."""

    kind: Literal["set_units"] = "set_units"
    name: str = Field(min_length=1, max_length=60)
    units: OwnUnits | None = None
    position: int | None = None


class PlacePiece(_Edit):
    """Put a piece of plant on the sheet with its upper left corner at a place; components that are missing come with it."""

    kind: Literal["place_piece"] = "place_piece"
    piece: Piece
    x: Finite
    y: Finite


class InsertInLine(_Edit):
    """Open a stream, put a unit in and close it again; the stream keeps its tag before the unit."""

    kind: Literal["insert_in_line"] = "insert_in_line"
    stream: Tag
    unit: Unit
    inlet: str = Field(max_length=40)
    outlet: str = Field(max_length=40)


class TakeOut(_Edit):
    """Take a unit of one inlet and one outlet out of its line and heal the line."""

    kind: Literal["take_out"] = "take_out"
    tag: Tag


class SwapOutlets(_Edit):
    """Let two streams from one unit change their outlets."""

    kind: Literal["swap_outlets"] = "swap_outlets"
    first: Tag
    second: Tag


class Reverse(_Edit):
    """Turn a stream round."""

    kind: Literal["reverse"] = "reverse"
    tag: Tag


class Renumber(_Edit):
    """Number units anew from ``first`` on, letter by letter, from left to right."""

    kind: Literal["renumber"] = "renumber"
    tags: tuple[Tag, ...] = Field(min_length=1, max_length=2000)
    first: int = Field(ge=1, le=99999)


class ReplaceAll(_Edit):
    """Put another document in the place of this one: going back to an earlier state in one step of constant size."""

    kind: Literal["replace_all"] = "replace_all"
    document: dict[str, Any]


class Batch(_Edit):
    """Several edits as one, all or none."""

    kind: Literal["batch"] = "batch"
    edits: tuple[Edit, ...] = Field(max_length=500)
    label: str = Field(default="", max_length=120)


Edit = Annotated[
    SetTitle
    | SetUnitSet
    | AddComponent
    | RemoveComponent
    | SetConstant
    | SetCurve
    | SetPrice
    | SetStandsFor
    | SetVapourPressure
    | SetModel
    | SetUnitModel
    | SetPair
    | SetPin
    | SetAim
    | SetStudy
    | SetData
    | SetFit
    | SetReactions
    | SetReaction
    | AddUnit
    | RemoveUnit
    | Connect
    | Disconnect
    | SetValues
    | SetRow
    | Rename
    | Move
    | Flip
    | Turn
    | SetNote
    | SetArea
    | SetTable
    | SetShown
    | SetTear
    | SetUnits
    | PlacePiece
    | InsertInLine
    | TakeOut
    | SwapOutlets
    | Reverse
    | Renumber
    | ReplaceAll
    | Batch,
    Field(discriminator="kind"),
]
Batch.model_rebuild()
