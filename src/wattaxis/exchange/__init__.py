"""Open formats out: stream tables as text, CSV and XLSX."""

from wattaxis.exchange.stream_table import stream_csv, stream_rows, stream_text, stream_xlsx

__all__ = ["stream_csv", "stream_rows", "stream_text", "stream_xlsx"]
