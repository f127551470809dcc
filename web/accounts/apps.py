from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """People: sign-in and passwords."""

    name = "accounts"
