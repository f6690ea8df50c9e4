"""The recorder itself as a source: its clock, its machine, its sources and loggers."""

from cronaca.recorder.drivers.system.driver import SystemDriver
from cronaca.recorder.drivers.system.machine import Machine

__all__ = ["Machine", "SystemDriver"]
