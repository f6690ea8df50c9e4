"""Internal tags: values that people, screens and scripts write."""

from cronaca.recorder.drivers.internal.driver import InternalDriver, InternalValues

__all__ = ["InternalDriver", "InternalValues"]
