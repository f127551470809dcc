"""Components: searched one by one or as a list, and made by estimates where the bank has none."""

from __future__ import annotations

from typing import Annotated, Any

from api import chemistry_schemas, schemas
from api.access import reading
from api.catalogue import component_data, curves_data
from django.http import HttpRequest
from ninja import Query, Router, Status

from wattaxis.flowsheet.model import own_component
from wattaxis.quantities import QuantityError, to_si
from wattaxis.substances import Component, Solid, component, search, solid
from wattaxis.substances.estimates import Estimated, component_from_boiling, component_from_groups, cuts_from_distillation

router = Router()


@router.get("components", response=list[chemistry_schemas.ComponentOut])
def get_components(request: HttpRequest, q: str = "", limit: int = 12) -> list[dict[str, Any]]:
    """Search the bank by name, synonym, formula or CAS number."""
    return [component_data(c) for c in search(q[:100], max(1, min(limit, 50)))]


@router.post("components/find", response=chemistry_schemas.FoundOut)
def find_components(request: HttpRequest, body: chemistry_schemas.NamesIn) -> dict[str, Any]:
    """A pasted list of names or CAS numbers: what each is, or what comes nearest."""
    found, missing = [], []
    for name in dict.fromkeys(n.strip() for n in body.names if n.strip()):
        try:
            found.append(_named(name, _known(name[:100])))
        except KeyError:
            missing.append({"asked": name, "near": [_named(name, c) for c in search(name[:100], 3)]})
    return {"found": found, "missing": missing}


def _known(name: str) -> Component:
    """The component of a name; a conventional solid where there is none. Raises KeyError."""
    try:
        return component(name)
    except KeyError:
        return solid(name)


def _named(asked: str, c: Component) -> dict[str, Any]:
    return {"asked": asked, "name": c.name, "cas": c.cas, "solid": isinstance(c, Solid)}


@router.post("components/estimate", response={200: chemistry_schemas.EstimatedComponents, 422: schemas.Message})
def estimate_components(request: HttpRequest, body: chemistry_schemas.EstimateIn) -> Any:
    """Constants of a component from groups, or from boiling point and density; or several from a distillation curve."""
    try:
        return {"components": _estimated(body)}
    except (ValueError, QuantityError) as error:
        return Status(422, {"message": str(error)})


@router.get("components/{cas}", response={200: chemistry_schemas.ComponentOut, 404: schemas.Message}, auth=reading)
def get_component(request: HttpRequest, cas: str, solid_one: Annotated[bool, Query(alias="solid")] = False) -> Any:
    """One component of the bank, or the conventional ``solid`` of that number."""
    try:
        known: Component = solid(cas) if solid_one else component(cas)
        return {**component_data(known), "curves": curves_data(known)}
    except KeyError as error:
        return Status(404, {"message": str(error.args[0])})


def _estimated(body: chemistry_schemas.EstimateIn) -> list[dict[str, Any]]:
    boiling = None if body.boiling_point is None else to_si(body.boiling_point, "temperature")
    if body.way == "groups":
        return [_told(component_from_groups(body.id, body.groups, boiling))]
    if body.density is None:
        raise ValueError("Give the density at 15 degC.")
    density = to_si(body.density, "density")
    if body.way == "boiling":
        if boiling is None:
            raise ValueError("Give the normal boiling point.")
        mass = None if body.molar_mass is None else to_si(body.molar_mass, "molar_mass")
        return [_told(component_from_boiling(body.id, boiling, density, mass))]
    points = [(p.share / 100.0, to_si(p.temperature, "temperature")) for p in body.curve]
    cuts = cuts_from_distillation(body.id, points, density, cuts=body.cuts, astm=body.astm)
    return [{**_told(cut.estimated), "mole_share": cut.mole_share, "density": cut.density} for cut in cuts]


def _told(made: Estimated) -> dict[str, Any]:
    return {"id": made.component.id, "own": own_component(made.component).model_dump(mode="json"), "notes": list(made.notes)}
