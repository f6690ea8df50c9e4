"""Measurements, run by hand: `make bench` writes docs/benchmarks.md."""
