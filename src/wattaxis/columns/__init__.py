"""Staged columns: distillation, absorption, stripping, as equations of all stages at once, with what is wanted of them in words."""

from wattaxis.columns.column import ColumnProduct, ColumnState, Reactions, StagedColumn
from wattaxis.columns.extraction import ExtractionColumn
from wattaxis.columns.layout import ColumnError, ColumnFeed, NoColumnState, PumpAround, SideDraw, SideStripper
from wattaxis.columns.shortcut import ShortCut, short_cut, short_cut_of
from wattaxis.columns.wants import Want

__all__ = [
    "ColumnError",
    "ColumnFeed",
    "ColumnProduct",
    "ColumnState",
    "ExtractionColumn",
    "NoColumnState",
    "PumpAround",
    "Reactions",
    "ShortCut",
    "SideDraw",
    "SideStripper",
    "StagedColumn",
    "Want",
    "short_cut",
    "short_cut_of",
]
