"""The recorder itself as a source: its clock, its machine, its sources and loggers."""

from cronaca.sources.system.driver import SystemDriver
from cronaca.sources.system.machine import Machine

__all__ = ["Machine", "SystemDriver"]
