"""The built-in signal generator: values before the plant is there."""

from cronaca.sources.generator.driver import GeneratorDriver

__all__ = ["GeneratorDriver"]
