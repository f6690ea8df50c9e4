"""A MariaDB of our own on loopback: own data folder, free port, own accounts with generated passwords."""

from __future__ import annotations

import json
import os
import secrets
import shutil
import subprocess
import time
from pathlib import Path
from typing import Final, TypedDict

from cronaca.core.errors import StoreError, StoreUnavailable
from cronaca.db.address import Address
from cronaca.db.disks import DISK_SPACE
from cronaca.db.pool import Store
from cronaca.db.ports import find_free_port, is_free
from cronaca.db.server_account import ServerAccount, choose_account, give_back

_START_S: Final = 60.0
_STOP_S: Final = 30.0
_PORTS_TRIED: Final = 5


class _Addresses(TypedDict):
    port: int
    password: str
    admin_password: str


def find_addresses(folder: Path) -> tuple[Address, Address] | None:
    """The program's and the administrator's address of the private database whose files lie there, as it was
    started last; None where there is none."""
    if not (folder / "server.json").is_file():
        return None
    server = PrivateServer(folder)
    return server.address, server.admin_address


class PrivateServer:
    """Starts and ends one mariadbd by its process id; its data stay in `folder`."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()
        self._data = self._folder / "data"
        # A server that starts removes what looks like leftovers where it keeps its temporary tables: in a
        # place for all it would take them from another one that is at work.
        self._tmp = self._folder / "tmp"
        self._account: ServerAccount | None = None
        self._process: subprocess.Popen[bytes] | None = None
        self._access = self._read_or_make_access()

    @property
    def address(self) -> Address:
        """Where the server listens and the program's account there, which can do everything in its own
        database and nothing beside it."""
        return Address("127.0.0.1", self._access["port"], "cronaca", "cronaca", self._access["password"])

    @property
    def admin_address(self) -> Address:
        """The account for what only commands do: making accounts and databases."""
        return Address(
            "127.0.0.1",
            self._access["port"],
            "cronaca_admin",
            "cronaca",
            self._access["admin_password"],
        )

    @property
    def pid(self) -> int | None:
        """The server's process id while it runs."""
        return self._process.pid if self._process is not None else None

    def start(self) -> Address:
        """Starts the server (installs its data folder the first time) and waits until it answers."""
        self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._account = choose_account(self._folder)
        self._data.mkdir(exist_ok=True, mode=0o700)
        self._tmp.mkdir(exist_ok=True, mode=0o700)
        self._settle_owner()
        if not (self._data / "mysql").is_dir():
            self._install()
        for _ in range(_PORTS_TRIED):
            self._launch()
            if self._wait_until_ready():
                return self.address
        raise StoreUnavailable(
            str(self.address), f"MariaDB found {_PORTS_TRIED} ports taken one after the other"
        )

    def stop(self) -> None:
        """Ends the server in order."""
        if self._process is None:
            return
        self._process.terminate()
        try:
            self._process.wait(_STOP_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._process = None

    def kill(self) -> None:
        """Ends the server at once, as a power cut would."""
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None

    def _launch(self) -> None:
        self._access["port"] = find_free_port(self._access["port"])
        self._write_access()
        # The log stays open in the child; setpriv ends the server when its parent dies.
        with open(self._folder / "server.log", "ab", opener=_open_private) as log:
            self._process = subprocess.Popen(self._command(), stdout=log, stderr=log, start_new_session=True)  # noqa: S603

    def _settle_owner(self) -> None:
        if self._account is None:
            give_back(self._data)
            return
        self._account.take_over(self._data)
        self._account.own(self._tmp)

    def _read_or_make_access(self) -> _Addresses:
        path = self._folder / "server.json"
        access = json.loads(path.read_text()) if path.exists() else {}
        return _Addresses(
            port=int(access.get("port", 0)),
            password=str(access.get("password") or secrets.token_urlsafe(24)),
            # Folders of older versions have one password only.
            admin_password=str(access.get("admin_password") or secrets.token_urlsafe(24)),
        )

    def _write_access(self) -> None:
        _write_private(self._folder / "server.json", json.dumps(self._access))
        _write_private(self._folder / "init.sql", self._init_sql())
        if self._account is not None:
            self._account.own(self._folder / "init.sql")

    def _init_sql(self) -> str:
        """Run by the server at each start: there is no moment with an open account. How full its disks are
        is told to who may read the server's files alone, so the program asks through a function."""
        access = self._access
        return (
            f"ALTER USER 'root'@'localhost' IDENTIFIED BY '{access['admin_password']}';\n"
            "CREATE DATABASE IF NOT EXISTS cronaca CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;\n"
            f"CREATE OR REPLACE USER 'cronaca'@'127.0.0.1' IDENTIFIED BY '{access['password']}';\n"
            "GRANT ALL ON cronaca.* TO 'cronaca'@'127.0.0.1';\n"
            "CREATE OR REPLACE USER 'cronaca_admin'@'127.0.0.1' "
            f"IDENTIFIED BY '{access['admin_password']}';\n"
            "GRANT ALL ON *.* TO 'cronaca_admin'@'127.0.0.1' WITH GRANT OPTION;\n"
            f"{DISK_SPACE.format(database='cronaca')};\n"
        )

    def _install(self) -> None:
        command = [*self._prefix(), "mariadb-install-db", "--no-defaults", f"--datadir={self._data}"]
        command += ["--skip-test-db", f"--tmpdir={self._tmp}"]
        command += ["--auth-root-authentication-method=normal", *self._user()]
        done = subprocess.run(command, capture_output=True, text=True, check=False)  # noqa: S603
        if done.returncode != 0:
            for part in self._data.iterdir():
                shutil.rmtree(part, ignore_errors=True)
            raise StoreError(f"mariadb-install-db failed: {(done.stderr or done.stdout).strip()[-500:]}")

    def _prefix(self) -> list[str]:
        return [] if self._account is None else self._account.command

    def _user(self) -> list[str]:
        """As root, MariaDB wants to be told that it may run as root."""
        return ["--user=root"] if os.geteuid() == 0 and self._account is None else []

    def _command(self) -> list[str]:
        server = shutil.which("mariadbd", path=f"{os.environ.get('PATH', '')}:/usr/sbin") or "mariadbd"
        return [
            *self._prefix(),
            # After the change of account, which clears it.
            *("setpriv", "--pdeathsig", "TERM", server, "--no-defaults", *self._user()),
            f"--datadir={self._data}",
            f"--tmpdir={self._tmp}",
            f"--init-file={self._folder / 'init.sql'}",
            f"--port={self._access['port']}",
            "--bind-address=127.0.0.1",
            "--socket=server.sock",
            "--pid-file=server.pid",
            "--skip-name-resolve",
            "--character-set-server=utf8mb4",
            "--max-allowed-packet=64M",
            "--innodb-buffer-pool-size=256M",
            "--innodb-log-file-size=128M",
            "--innodb-lock-wait-timeout=5",
            "--plugin-load-add=disks",
        ]

    def _wait_until_ready(self) -> bool:
        """True once the server answers; False when it ended because another one had taken its port since it
        was found free. Raises StoreUnavailable for every other reason, with the end of the server's log."""
        deadline = time.monotonic() + _START_S
        store = Store(self.address, connections=1)
        try:
            while True:
                try:
                    with store.snapshot() as tx:
                        tx.fetch("SELECT 1")
                    return True
                except StoreError as exc:
                    ended = self._process is None or self._process.poll() is not None
                    if ended and not is_free(self._access["port"]):
                        return False
                    if ended or time.monotonic() > deadline:
                        tail = (self._folder / "server.log").read_text(errors="replace")[-800:]
                        raise StoreUnavailable(
                            str(self.address), f"MariaDB did not start; its log ends: {tail}"
                        ) from exc
                    time.sleep(0.1)
        finally:
            store.close()


def _write_private(path: Path, text: str) -> None:
    """For its owner alone from its first moment; one that another account owns is made anew."""
    path.unlink(missing_ok=True)
    with open(path, "w", opener=_open_private) as stream:
        stream.write(text)


def _open_private(path: str, flags: int) -> int:
    return os.open(path, flags, 0o600)
