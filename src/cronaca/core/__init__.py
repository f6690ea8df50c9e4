"""The rules and the arithmetic of the job: pure functions over arrays; no I/O, no clock, no framework."""
