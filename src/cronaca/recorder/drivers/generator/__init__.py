"""The built-in signal generator: values before the plant is there."""

from cronaca.recorder.drivers.generator.driver import GeneratorDriver

__all__ = ["GeneratorDriver"]
