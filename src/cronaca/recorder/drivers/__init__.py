"""Drivers behind one small protocol (core.ports.Driver); they do not know each other."""
