"""A MariaDB of our own on loopback: own data folder, free port, own account with a generated password."""

from __future__ import annotations

import json
import os
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path
from typing import Final, TypedDict

from cronaca.core.errors import StoreError, StoreUnavailable
from cronaca.store.address import Address
from cronaca.store.pool import Store

_START_S: Final = 60.0
_STOP_S: Final = 30.0


class _Facts(TypedDict):
    port: int
    password: str


class PrivateServer:
    """Starts and ends one mariadbd by its process id; its data stay in `folder`."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder.resolve()
        self._data = self._folder / "data"
        # A server that starts removes what looks like leftovers where it keeps its temporary tables: in a
        # place for all it would take them from another one that is at work.
        self._tmp = self._folder / "tmp"
        self._process: subprocess.Popen[bytes] | None = None
        self._facts = self._read_or_make_facts()

    @property
    def address(self) -> Address:
        """Where the server listens and our account there."""
        return Address("127.0.0.1", self._facts["port"], "cronaca", "cronaca", self._facts["password"])

    @property
    def pid(self) -> int | None:
        """The server's process id while it runs."""
        return self._process.pid if self._process is not None else None

    def start(self) -> Address:
        """Starts the server (installs its data folder the first time) and waits until it answers."""
        if not (self._data / "mysql").is_dir():
            self._install()
        self._facts["port"] = _free_port(self._facts["port"])
        self._write_facts()
        # The log stays open in the child; setpriv ends the server when its parent dies.
        with (self._folder / "server.log").open("ab") as log:
            self._process = subprocess.Popen(self._command(), stdout=log, stderr=log, start_new_session=True)  # noqa: S603
        self._wait_until_ready()
        return self.address

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

    def _read_or_make_facts(self) -> _Facts:
        path = self._folder / "server.json"
        if path.exists():
            facts = json.loads(path.read_text())
            return _Facts(port=int(facts["port"]), password=str(facts["password"]))
        return _Facts(port=0, password=secrets.token_urlsafe(24))

    def _write_facts(self) -> None:
        self._folder.mkdir(parents=True, exist_ok=True)
        for name, text in (("server.json", json.dumps(self._facts)), ("init.sql", self._init_sql())):
            path = self._folder / name
            path.touch(mode=0o600)
            path.write_text(text)

    def _init_sql(self) -> str:
        """Run by the server at each start: there is no moment with an open account."""
        password = self._facts["password"]
        return (
            f"ALTER USER 'root'@'localhost' IDENTIFIED BY '{password}';\n"
            "CREATE DATABASE IF NOT EXISTS cronaca CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;\n"
            f"CREATE OR REPLACE USER 'cronaca'@'127.0.0.1' IDENTIFIED BY '{password}';\n"
            "GRANT ALL ON *.* TO 'cronaca'@'127.0.0.1' WITH GRANT OPTION;\n"
        )

    def _install(self) -> None:
        self._data.mkdir(parents=True, exist_ok=True)
        self._tmp.mkdir(exist_ok=True)
        command = ["mariadb-install-db", "--no-defaults", f"--datadir={self._data}", "--skip-test-db"]
        command.append(f"--tmpdir={self._tmp}")
        command += ["--auth-root-authentication-method=normal", *_user()]
        done = subprocess.run(command, capture_output=True, text=True, check=False)  # noqa: S603
        if done.returncode != 0:
            shutil.rmtree(self._data, ignore_errors=True)
            raise StoreError(f"mariadb-install-db failed: {(done.stderr or done.stdout).strip()[-500:]}")

    def _command(self) -> list[str]:
        self._tmp.mkdir(exist_ok=True)
        server = shutil.which("mariadbd", path=f"{os.environ.get('PATH', '')}:/usr/sbin") or "mariadbd"
        return [
            *("setpriv", "--pdeathsig", "TERM", server, "--no-defaults", *_user()),
            f"--datadir={self._data}",
            f"--tmpdir={self._tmp}",
            f"--init-file={self._folder / 'init.sql'}",
            f"--port={self._facts['port']}",
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

    def _wait_until_ready(self) -> None:
        deadline = time.monotonic() + _START_S
        store = Store(self.address, connections=1)
        while True:
            try:
                with store.snapshot() as tx:
                    tx.fetch("SELECT 1")
                break
            except StoreError as exc:
                if self._process is None or self._process.poll() is not None or time.monotonic() > deadline:
                    tail = (self._folder / "server.log").read_text(errors="replace")[-800:]
                    raise StoreUnavailable(
                        str(self.address), f"MariaDB did not start; its log ends: {tail}"
                    ) from exc
                time.sleep(0.1)
        store.close()


def _user() -> list[str]:
    """As root, MariaDB wants to be told that it may run as root."""
    return ["--user=root"] if os.geteuid() == 0 else []


def _free_port(wanted: int) -> int:
    """The wanted port when it is free, else another one."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            # Else connections that have just ended would make the server move to another port.
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise StoreError("There is no free port on loopback.")
