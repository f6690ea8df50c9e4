"""Prints the folders and files of tests that belong to what was changed, for `make test-quick`.

Core and contracts are tested in any case; what takes minutes (browser, recorder, faults) is left out."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Final

ALWAYS: Final = frozenset({"core", "contracts"})
LONG: Final = frozenset({"browser", "recorder", "faults", "slow", "support"})


def changed_files(since: str) -> list[Path]:
    """Files that differ from a commit, or are new."""
    commands = (
        ["git", "diff", "--name-only", since],
        ["git", "ls-files", "--others", "--exclude-standard"],
    )
    return [
        Path(line)
        for command in commands
        for line in subprocess.run(command, capture_output=True, text=True, check=True).stdout.splitlines()
    ]


def tests_of(files: Iterable[Path], root: Path) -> list[str]:
    """For each file of a floor the folder of its tests; a changed test itself."""
    found = set()
    for file in files:
        parts = file.parts
        if parts[:1] == ("tests",) and len(parts) > 2 and parts[1] not in LONG | ALWAYS:
            if file.name.startswith("test_") and (root / file).exists():
                found.add(str(file))
        elif parts[:2] == ("src", "cronaca") and parts[2] not in LONG | ALWAYS:
            folder = Path("tests", parts[2])
            if (root / folder).is_dir():
                found.add(str(folder))
    return sorted(path for path in found if str(Path(path).parent) not in found)


if __name__ == "__main__":
    print(" ".join(tests_of(changed_files(sys.argv[1]), Path.cwd())))
