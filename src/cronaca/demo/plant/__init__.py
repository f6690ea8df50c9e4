"""The process model of a drying line."""

from cronaca.demo.plant.line import DryingLine
from cronaca.demo.plant.signals import SIGNALS, Signal

__all__ = ["SIGNALS", "DryingLine", "Signal"]
