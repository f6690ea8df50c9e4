"""Figures by their definitions, in exact fractions: slow, one interval and one sample after the other, and
without a line of the code that they check."""
