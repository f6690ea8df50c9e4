"""The register map as a document: the test holds docs/demo-plant.md against it."""

from __future__ import annotations

from cronaca.demo.plant.signals import SIGNALS, Signal


def register_table() -> str:
    """A Markdown table of all signals, in the order of tables and addresses."""
    head = "| Table | Address | Type | Scale | Value | Unit | Range |\n" + "| --- " * 7 + "|"
    ordered = sorted(SIGNALS, key=lambda signal: (signal.table, signal.address))
    return "\n".join([head, *(_row(signal) for signal in ordered)])


def _row(s: Signal) -> str:
    scale = f"{s.scale:g}" if s.scale != 1.0 else ""
    span = "" if s.value_type.discrete else f"{s.low:g} to {s.high:g}"
    name = s.name if s.part == "Line" else f"{s.part}, {s.name.lower()}"
    cells = (s.table.replace("_", " "), s.address, s.data_type, scale, name, s.unit, span)
    return "".join(f"| {cell} " for cell in cells) + "|"
