"""Bodies of requests, read in one place: JSON whose texts can be written."""

import json
from typing import Any

from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.parser import Parser

from wattaxis.flowsheet.document import UNWRITABLE, is_writable

#: Bytes of a body. A document of many megabytes comes as a file, which is read in a process of its own.
LARGEST = 2_000_000


class Body(Parser):
    """Refuses what is too large, what is no JSON, and texts that no file or mail could hold. Raises HttpError."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Plain data."""
        if len(request.body) > LARGEST:
            raise HttpError(413, f"That is more than {LARGEST // 1_000_000} MB at once. Send it in parts, or as a file.")
        try:
            data = json.loads(request.body)
        except (ValueError, RecursionError) as error:
            raise HttpError(400, "The body of the request is not valid JSON.") from error
        if not is_writable(data):
            raise HttpError(422, UNWRITABLE)
        return data
