from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Who signs in, how it is slowed down, and what is on record."""

    name = "accounts"

    def ready(self) -> None:
        """A sign-in notes when it began."""
        from accounts import sessions

        _ = sessions
