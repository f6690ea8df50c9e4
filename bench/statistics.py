"""A statistics sheet of four lines, 20 tags, 6 statistics: `python -m bench.statistics`.

In the server, without the way to the browser; the demo's lines with ten hours at 1 Hz.
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Final

import numpy as np
from tests.support.application import Application

from cronaca.core.model import HOUR, MINUTE
from cronaca.db.private_server import PrivateServer
from cronaca.demo.history import LINES, write_history
from cronaca.history.read.figures import FigureReader
from cronaca.history.read.series import SeriesReader
from cronaca.services.figures import FigureService, FigureSpec, WindowSpec
from cronaca.services.statistics import StatisticsService
from cronaca.services.statistics.specs import ColumnSpec, EquipmentKind, RowSpec, SheetSpec

STATS: Final = (
    "TimeAverage2", "Minimum", "Maximum", "StandardDeviationPopulation", "Range", "PercentGood",
)  # fmt: skip
WINDOWS: Final = {"10 min": 10 * MINUTE, "30 min": 30 * MINUTE, "2 h": 2 * HOUR, "8 h": 8 * HOUR}
RUNS: Final = 20


def wanted(kind: EquipmentKind, length_us: int) -> SheetSpec:
    """Every statistic of 20 analog members of all lines."""
    analog = [member for member in kind.members if member.value_type == "float"][:20]
    columns = [(member, stat) for member in analog for stat in STATS]
    rows = tuple(
        RowSpec(name, tuple(member.tags[i] for member, _ in columns)) for i, name in enumerate(kind.equipment)
    )
    figures = tuple(ColumnSpec(FigureSpec(stat)) for _, stat in columns)
    return SheetSpec(rows, figures, WindowSpec(last_us=length_us))


def main() -> None:
    """Prints the table for docs/benchmarks.md."""
    with tempfile.TemporaryDirectory() as name:
        server = PrivateServer(Path(name) / "db")
        application = Application(server.start(), Path(name), lines=4)
        try:
            write_history(
                application.store, lambda: time.time_ns() // 1000, lambda _: None, lines=LINES,
                length_us=10 * HOUR,
            )  # fmt: skip
            store = application.store
            figures = FigureService(
                store, FigureReader(store, SeriesReader(store)), lambda: time.time_ns() // 1000
            )
            service = StatisticsService(figures, store)
            kind = service.kinds()[0]
            print("| window | first | median | p95 |\n| --- | --- | --- | --- |")
            for label, length_us in WINDOWS.items():
                asked, took = wanted(kind, length_us), []
                for _ in range(RUNS):
                    began = time.perf_counter()
                    service.sheet(asked)
                    took.append((time.perf_counter() - began) * 1e3)
                later = took[1:]
                row = (took[0], float(np.median(later)), float(np.percentile(later, 95)))
                print(f"| {label} | " + " | ".join(f"{ms:.0f} ms" for ms in row) + " |", flush=True)
        finally:
            application.stop()
            server.stop()


if __name__ == "__main__":
    main()
