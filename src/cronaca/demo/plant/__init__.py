"""The process model of a drying line."""

from cronaca.demo.plant.line import DryingLine, LineFacts
from cronaca.demo.plant.signals import SIGNALS, Signal

__all__ = ["SIGNALS", "DryingLine", "LineFacts", "Signal"]
