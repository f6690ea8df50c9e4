"""Aggregates of recorded values: the 37 of OPC UA (IEC 62541) Part 13, with status and bounds."""

from cronaca.core.aggregates.catalogue import AGGREGATES, Aggregate, find_aggregate, process, process_all
from cronaca.core.aggregates.configuration import Configuration
from cronaca.core.aggregates.interval_data import IntervalData
from cronaca.core.aggregates.intervals import Intervals, by_duration, by_edges
from cronaca.core.aggregates.results import Processed
from cronaca.core.aggregates.samples import Blocks, Samples

__all__ = [
    "AGGREGATES",
    "Aggregate",
    "Blocks",
    "Configuration",
    "IntervalData",
    "Intervals",
    "Processed",
    "Samples",
    "by_duration",
    "by_edges",
    "find_aggregate",
    "process",
    "process_all",
]
