"""Runs where nothing but numpy, numcodecs and lark is installed: the core works there."""

import unittest

import numpy as np

from cronaca.core.codec import decode_segment, encode_segment
from cronaca.core.formulas import Formula, evaluate_history, parse_formula
from cronaca.core.model import Series, ValueType, Window
from cronaca.core.trends import reduce_m4


class CoreAlone(unittest.TestCase):
    def test_a_segment_comes_back_and_is_reduced(self) -> None:
        series = Series.of(ValueType.FLOAT, np.arange(10_000), np.sin(np.arange(10_000) / 50).round(2))
        self.assertTrue(decode_segment(encode_segment(series)).equals(series))
        self.assertLess(len(reduce_m4(series, Window(0, 10_000), 100)), 401)

    def test_a_formula_is_read_and_evaluated(self) -> None:
        series = Series.of(ValueType.FLOAT, np.arange(3), np.array([1.0, 2.0, 3.0]))
        found = evaluate_history(Formula(parse_formula("a * 2 + 1")), {"a": series}, ValueType.FLOAT)
        self.assertEqual(found.values.tolist(), [3.0, 5.0, 7.0])


if __name__ == "__main__":
    unittest.main()
