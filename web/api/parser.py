"""Bodies of requests, read in one place: JSON whose texts can be written."""

import json
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser

from wattaxis.flowsheet.document import UNWRITABLE, is_writable


class Body(Parser):
    """Refuses what is no JSON, and texts that no file or mail could hold. Raises HttpError."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Plain data."""
        try:
            data = json.loads(request.body)
        except (ValueError, RecursionError) as error:
            raise HttpError(400, "The body of the request is not valid JSON.") from error
        if not is_writable(data):
            raise HttpError(422, UNWRITABLE)
        return data
