"""Runs where nothing but numpy and numcodecs is installed: the core works there."""

import unittest

import numpy as np

from cronaca.core.codec import decode_segment, encode_segment
from cronaca.core.model import Series, ValueType, Window
from cronaca.core.trends import reduce_m4


class CoreAlone(unittest.TestCase):
    def test_a_segment_comes_back_and_is_reduced(self) -> None:
        series = Series.of(ValueType.FLOAT, np.arange(10_000), np.sin(np.arange(10_000) / 50).round(2))
        self.assertTrue(decode_segment(encode_segment(series)).equals(series))
        self.assertLess(len(reduce_m4(series, Window(0, 10_000), 100)), 401)


if __name__ == "__main__":
    unittest.main()
