"""Internal tags: values that people, screens and scripts write."""

from cronaca.sources.internal.driver import InternalDriver, InternalValues

__all__ = ["InternalDriver", "InternalValues"]
