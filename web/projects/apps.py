from django.apps import AppConfig


class ProjectsConfig(AppConfig):
    """Projects, variants, revisions."""

    name = "projects"
