"""Open formats in and out: stream tables as text and CSV, everything of a plant as a workbook; tables of feeds."""

from wattaxis.exchange.data_table import DataTable, data_from_table, paste_data
from wattaxis.exchange.feed_table import FeedTable, feed_from_table
from wattaxis.exchange.stream_table import stream_csv, stream_rows, stream_text
from wattaxis.exchange.study_table import study_csv, study_rows
from wattaxis.exchange.tables import TableError, read_table
from wattaxis.exchange.thermoml import data_from_thermoml
from wattaxis.exchange.unit_table import unit_rows, workbook

__all__ = [
    "DataTable", "FeedTable", "TableError", "data_from_table", "data_from_thermoml", "feed_from_table", "paste_data", "read_table", "stream_csv",
    "stream_rows", "stream_text", "study_csv", "study_rows", "unit_rows", "workbook",
]  # fmt: skip
