"""Numbers in addresses: no longer than the database can hold."""

from django.urls.converters import IntConverter


class IdConverter(IntConverter):
    """A whole number of at most 15 digits; anything longer finds no page."""

    regex = "[0-9]{1,15}"
