"""Loads the demo: a person to sign in as, the Sandlark Bay project and small plants. Safe to run again."""

from importlib.resources import files
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from projects.models import Project
from projects.service import add_variant, create_project

from wattaxis.flowsheet import load
from wattaxis.flowsheet.document import to_data

NAME, PASSWORD = "engineer", "sandlark-bay"
PROJECT, SMALL = "Sandlark Bay", "Small plants"


def example(name: str) -> dict[str, Any]:
    """A document that ships with the core, as plain data."""
    return to_data(load(files("wattaxis.examples").joinpath(f"{name}.json").read_text(encoding="utf-8")))


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
            add_variant(base.project, "Alcohol recycle", example("sandlark_bay_recycle"), person)
            add_variant(base.project, "Butanone plant", example("butanone_plant"), person)
        if not Project.objects.filter(name=SMALL, members=person).exists():
            small = create_project(SMALL, person, example("ammonia_loop"))
            small.name = "Ammonia loop"
            small.save()
            add_variant(small.project, "Hydrogen compression", example("hydrogen_compression"), person)
            add_variant(small.project, "Steam power", example("steam_power"), person)
            add_variant(small.project, "Salt drying", example("salt_drying"), person)
            add_variant(small.project, "Reactors on one feed", example("reactors_on_one_feed"), person)
            add_variant(small.project, "Styrene beds", example("styrene_beds"), person)
            add_variant(small.project, "Ammonia beds", example("ammonia_beds"), person)
            add_variant(small.project, "Tubes raising steam", example("tubes_raising_steam"), person)
            add_variant(small.project, "Magnesia from brine", example("magnesia_from_brine"), person)
            add_variant(small.project, "Butane splitter", example("butane_splitter"), person)
            add_variant(small.project, "Butanol and water", example("butanol_and_water"), person)
            add_variant(small.project, "Butanone extracted", example("butanone_extracted"), person)
            add_variant(small.project, "Ether from methanol", example("ether_from_methanol"), person)
            add_variant(small.project, "Gas in oil", example("gas_in_oil"), person)
        self.stdout.write(f"Demo sign-in: {NAME} / {PASSWORD}")
