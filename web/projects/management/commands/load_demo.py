"""Loads the demo: a person to sign in as, the Sandlark Bay project and small plants, with the answers to their studies. Safe to run again."""

import gzip
import json
from importlib.resources import files
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from projects.models import Project, StudyAnswer, Variant
from projects.service import add_variant, create_project

from wattaxis.flowsheet import load
from wattaxis.flowsheet.document import to_data

NAME, PASSWORD = "engineer", "sandlark-bay"
PROJECT, SMALL = "Sandlark Bay", "Small plants"
#: Beside the ammonia loop: names of variants, and the examples that they are.
SMALL_PLANTS = (
    ("Hydrogen compression", "hydrogen_compression"),
    ("Steam power", "steam_power"),
    ("Salt drying", "salt_drying"),
    ("Reactors on one feed", "reactors_on_one_feed"),
    ("Styrene beds", "styrene_beds"),
    ("Ammonia beds", "ammonia_beds"),
    ("Tubes raising steam", "tubes_raising_steam"),
    ("Magnesia from brine", "magnesia_from_brine"),
    ("Butane splitter", "butane_splitter"),
    ("Butanol and water", "butanol_and_water"),
    ("Butanone extracted", "butanone_extracted"),
    ("Ether from methanol", "ether_from_methanol"),
    ("Gas in oil", "gas_in_oil"),
)


def example(name: str) -> dict[str, Any]:
    """A document that ships with the core, as plain data."""
    return to_data(load(files("wattaxis.examples").joinpath(f"{name}.json").read_text(encoding="utf-8")))


def finish(variant: Variant, name: str, person: Any) -> None:
    """Put down the answers to the studies of an example, which ship with it."""
    shipped = json.loads(gzip.decompress(files("wattaxis.examples").joinpath("answers.json.gz").read_bytes()))
    for study, answer in shipped.get(name, {}).items():
        cases = answer["result"]["cases"]
        StudyAnswer.objects.create(
            variant=variant,
            name=study,
            key=answer["key"],
            revision=1,
            answer=answer["result"],
            planned=len(cases),
            cases=len(cases),
            failed=sum(None in case["outputs"] for case in cases),
            seconds=answer["seconds"],
            author=person,
        )


class Command(BaseCommand):
    """``manage.py load_demo``"""

    help = "Create the demo person and project where they are missing."

    def handle(self, *args: object, **options: object) -> None:
        """Create what is missing."""
        people = get_user_model()
        person = people.objects.filter(username=NAME).first()
        if person is None:
            person = people.objects.create_superuser(NAME, f"{NAME}@sandlark-bay.invalid", PASSWORD)
        if not Project.objects.filter(name=PROJECT, members=person).exists():
            base = create_project(PROJECT, person, example("sandlark_bay"))
            for name, of in (("Alcohol recycle", "sandlark_bay_recycle"), ("Butanone plant", "butanone_plant")):
                add_variant(base.project, name, example(of), person)
        if not Project.objects.filter(name=SMALL, members=person).exists():
            small = create_project(SMALL, person, example("ammonia_loop"))
            small.name = "Ammonia loop"
            small.save()
            finish(small, "ammonia_loop", person)
            for name, of in SMALL_PLANTS:
                finish(add_variant(small.project, name, example(of), person), of, person)
        self.stdout.write(f"Demo sign-in: {NAME} / {PASSWORD}")
