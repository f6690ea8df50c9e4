"""What the machine tells of itself, through psutil."""

from __future__ import annotations

from pathlib import Path
from typing import Final

import psutil

from cronaca.core.addresses.system import Item

_GIGA: Final = 1e9


class Machine:
    """Processor, memory, and the disk that a folder lies on."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        psutil.cpu_percent()  # the share of a processor is counted from one look to the next

    def read(self) -> dict[Item, float]:
        """Shares in %, free space in GB (10^9 bytes). A disk that is not there has no value."""
        values = {
            Item.PROCESSOR: float(psutil.cpu_percent()),
            Item.MEMORY: float(psutil.virtual_memory().percent),
        }
        try:
            disk = psutil.disk_usage(str(self._folder))
        except OSError:
            return values
        return {**values, Item.DISK: float(disk.percent), Item.DISK_FREE: disk.free / _GIGA}
