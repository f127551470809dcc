"""Schemas of pieces of plant, kits, and compressions laid out."""

from __future__ import annotations

from typing import Any

from ninja import Schema
from pydantic import ConfigDict, Field

from wattaxis import CompressionQuestion


class FreeIn(Schema):
    """A given that is meant to be changed wherever a piece is placed."""

    unit: str = Field(max_length=40)
    field: str = Field(max_length=40)


class PieceIn(Schema):
    """Which units to take, and under which name."""

    tags: list[str] = Field(min_length=1, max_length=400)
    name: str = Field(default="", max_length=60)
    text: str = Field(default="", max_length=600)
    free: list[FreeIn] = Field(default=[], max_length=60)


class PieceOut(Schema):
    """A piece of plant as plain data."""

    piece: dict[str, Any]


class KitIn(Schema):
    """A piece with a name, to be kept."""

    piece: dict[str, Any]


class KitOut(Schema):
    """A kit; those that ship have no number."""

    id: int | None
    piece: dict[str, Any]


class CompressionIn(CompressionQuestion):
    """What is to be laid out in a stream."""

    model_config = ConfigDict(extra="ignore", frozen=True)


class StageOut(Schema):
    """Outlet pressure (Pa), discharge temperature (K), power (W) and mole fraction of liquid behind the cooler."""

    pressure: float
    temperature: float
    power: float
    liquid: float


class CompressionOut(Schema):
    """The stages, the ratio of each, and the edit that lays them out."""

    ratio: float
    stages: list[StageOut]
    edit: dict[str, Any]
    notes: list[str]
