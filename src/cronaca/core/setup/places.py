"""Where an archive's directory may be."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Final

from cronaca.core.errors import InvalidInput


@dataclass(frozen=True, slots=True)
class ArchivePlaces:
    """The directories below which archives may lie, and those that are closed to them even there: the
    program's own and those of its files. All are absolute paths without links."""

    roots: tuple[PurePosixPath, ...] = ()
    closed: tuple[PurePosixPath, ...] = ()

    def check(self, directory: str, also_closed: tuple[PurePosixPath, ...] = ()) -> None:
        """Raises InvalidInput unless the directory is one of the roots or below one, and apart from all that
        is closed: neither inside of it nor around it."""
        place = PurePosixPath(directory)
        if not any(place.is_relative_to(root) for root in self.roots):
            raise InvalidInput(
                "directory",
                "not-below-permitted-directory",
                "{directory} is not below a permitted directory",
                "{advice}",
                directory=directory,
                advice=self._remedy,
            )
        for closed in (*self.closed, *also_closed):
            if place.is_relative_to(closed) or closed.is_relative_to(place):
                raise InvalidInput(
                    "directory",
                    "holds-directory-program-database",
                    "{directory} is, or holds, a directory of the program or of its database",
                    "Take a directory of its own.",
                    directory=directory,
                )

    @property
    def _remedy(self) -> str:
        if not self.roots:
            return "Leave it empty, or have the administrator name directories in CRONACA_ARCHIVE_ROOTS."
        return f"Take one below {' or '.join(str(root) for root in self.roots)}, or leave it empty."


NO_PLACES: Final = ArchivePlaces()
"""All archives lie with the database."""
