"""The operating system's account that a private database runs under when it is started as root."""

from __future__ import annotations

import logging
import os
import pwd
import stat
import subprocess
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

NAME: Final = "mysql"
"""Debian's package of the server makes this account for it."""
_PASSABLE: Final = 0o710
_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class ServerAccount:
    """An account that owns the database's files and nothing else."""

    uid: int
    gid: int

    @property
    def command(self) -> list[str]:
        """What to put before a command that is to run under this account, without further groups."""
        return ["setpriv", f"--reuid={self.uid}", f"--regid={self.gid}", "--clear-groups"]

    def own(self, path: Path) -> None:
        """Makes the account the owner of one file or folder, which nobody else may read."""
        os.chown(path, self.uid, self.gid, follow_symlinks=False)
        path.chmod(0o700 if path.is_dir() else 0o600)

    def take_over(self, data: Path) -> None:
        """Hands a data folder over that another account kept so far, with the tables that lie in other
        directories. The folder itself comes last: when this is interrupted it is done again."""
        if data.stat().st_uid == self.uid:
            return
        for path in [*_tables_elsewhere(data), *data.rglob("*"), data]:
            os.chown(path, self.uid, self.gid, follow_symlinks=False)


def choose_account(folder: Path) -> ServerAccount | None:
    """The account for a database in this folder; None where the one who starts it is to run it: anybody but
    root, and root where there is no such account or where it cannot reach the folder (which is logged)."""
    if os.geteuid() != 0:
        return None
    try:
        entry = pwd.getpwnam(NAME)
    except KeyError:
        _log.warning("The database runs as root: this machine has no account %r for it.", NAME)
        return None
    account = ServerAccount(entry.pw_uid, entry.pw_gid)
    for own in (folder, folder.parent):
        _let_pass(own, account)
    if not _reaches(account, folder):
        _log.warning(
            "The database runs as root: the account %r cannot reach %s. Let it pass the folders above "
            "(chmod o+x), or set CRONACA_DATA_DIR to another place.", NAME, folder,
        )  # fmt: skip
        return None
    return account


def give_back(data: Path) -> None:
    """Notes that root runs the server now: what it makes is handed over when the account is used again."""
    if os.geteuid() == 0:
        os.chown(data, 0, 0)


def _let_pass(folder: Path, account: ServerAccount) -> None:
    """The database's group may pass a folder that is for root alone, and sees nothing of it. A folder that
    somebody opened for others, or for a group of theirs, stays as it is."""
    status = folder.stat()
    for_root = status.st_gid == 0 or not status.st_mode & stat.S_IRWXG
    if status.st_uid == 0 and for_root and not status.st_mode & stat.S_IRWXO:
        os.chown(folder, 0, account.gid)
        folder.chmod(_PASSABLE)


def _reaches(account: ServerAccount, folder: Path) -> bool:
    command = [*account.command, "test", "-x", str(folder)]
    return subprocess.run(command, capture_output=True, check=False).returncode == 0  # noqa: S603


def _tables_elsewhere(data: Path) -> Iterator[Path]:
    """The files of archives with a directory of their own, and the folders that they lie in: the server
    keeps a link file for each."""
    for link in data.rglob("*.isl"):
        table = Path(link.read_text().strip())
        if table.suffix == ".ibd" and not table.is_symlink() and table.is_file():
            yield from (table, table.parent)
