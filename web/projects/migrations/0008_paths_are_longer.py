"""Parts of studies under way are of other sizes from here on: what is not finished begins anew."""

from typing import Any

from django.db import migrations


def forget_parts(apps: Any, schema_editor: Any) -> None:
    """Parts of the sizes before."""
    apps.get_model("projects", "StudyPart").objects.all().delete()
    apps.get_model("projects", "StudyAnswer").objects.exclude(state="done").update(cases=0, failed=0, planned=None)


class Migration(migrations.Migration):
    """One way: the sizes before are not known any more."""

    dependencies = [("projects", "0007_study_runs")]

    operations = [migrations.RunPython(forget_parts, migrations.RunPython.noop)]
