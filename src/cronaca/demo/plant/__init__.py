"""The process model of a drying line."""

from cronaca.demo.plant.line import DryingLine, LineSettings
from cronaca.demo.plant.signals import SIGNALS, Signal

__all__ = ["SIGNALS", "DryingLine", "LineSettings", "Signal"]
