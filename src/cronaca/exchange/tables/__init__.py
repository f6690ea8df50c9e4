"""Samples in tables: CSV and Parquet in and out.

Long form: one sample a line, `time, tag, value[, quality]`; without the column `tag`, all of one tag.
Wide form: one column per tag beside `time`.
"""

from cronaca.exchange.tables.form import BadLine, OnBad, Rejects, TableOptions
from cronaca.exchange.tables.reading import read_table
from cronaca.exchange.tables.writing import CsvWriter, ParquetWriter, TableWriter

__all__ = [
    "BadLine",
    "CsvWriter",
    "OnBad",
    "ParquetWriter",
    "Rejects",
    "TableOptions",
    "TableWriter",
    "read_table",
]
