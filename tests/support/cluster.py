"""Three MariaDB nodes with Galera on loopback."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from dataclasses import replace
from pathlib import Path

from cronaca.core.errors import StoreError
from cronaca.db import Address, Store
from cronaca.db.ports import find_free_port
from tests.support.application import wait_for

PROVIDER = "/usr/lib/galera/libgalera_smm.so"
PASSWORD = "only-on-loopback"


class Node:
    """One server of the cluster."""

    def __init__(self, folder: Path, name: str, ports: dict[str, int], peers: str) -> None:
        self.name = name
        self._folder = folder / name
        self._ports = ports
        self._peers = peers
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def place(self) -> tuple[str, int]:
        return ("127.0.0.1", self._ports["sql"])

    def start(self, *, first: bool = False) -> None:
        data = self._folder / "data"
        if not data.exists():
            data.mkdir(parents=True)
            command = [
                "mariadb-install-db",
                "--no-defaults",
                f"--datadir={data}",
                "--skip-test-db",
                *_user(),
            ]
            command += ["--auth-root-authentication-method=normal", *_user()]
            subprocess.run(command, check=True, capture_output=True)
        (self._folder / "init.sql").write_text(
            "CREATE DATABASE IF NOT EXISTS cronaca CHARACTER SET utf8mb4;\n"
            f"CREATE OR REPLACE USER 'cronaca'@'127.0.0.1' IDENTIFIED BY '{PASSWORD}';\n"
            "GRANT ALL ON *.* TO 'cronaca'@'127.0.0.1' WITH GRANT OPTION;\n"
        )
        if os.geteuid() == 0:
            # rsync's daemon, which takes a joiner's copy, lets go of root's rights: nothing runs as root.
            subprocess.run(["chown", "-R", "mysql", str(self._folder)], check=True)
        with (self._folder / "server.log").open("ab") as log:
            self._process = subprocess.Popen(self._command(data, first=first), stdout=log, stderr=log)

    def _command(self, data: Path, *, first: bool) -> list[str]:
        p = self._ports
        server = shutil.which("mariadbd", path=f"{os.environ.get('PATH', '')}:/usr/sbin") or "mariadbd"
        options = f"gmcast.listen_addr=tcp://127.0.0.1:{p['group']};ist.recv_addr=127.0.0.1:{p['ist']}"
        return [
            server, "--no-defaults", *_user(),
            f"--datadir={data}", f"--port={p['sql']}", "--bind-address=127.0.0.1",
            f"--socket={self._folder}/s.sock", "--pid-file=server.pid", "--skip-name-resolve",
            "--character-set-server=utf8mb4", "--max-allowed-packet=64M", "--innodb-buffer-pool-size=64M",
            "--innodb-log-file-size=32M", "--innodb-lock-wait-timeout=5", "--innodb-autoinc-lock-mode=2",
            "--binlog-format=ROW", "--default-storage-engine=InnoDB", "--wsrep-on=ON",
            f"--wsrep-provider={PROVIDER}", "--wsrep-cluster-name=cronaca-test",
            f"--wsrep-cluster-address=gcomm://{self._peers}", f"--wsrep-node-name={self.name}",
            f"--wsrep-node-address=127.0.0.1:{p['group']}", "--wsrep-sst-method=rsync",
            f"--wsrep-sst-receive-address=127.0.0.1:{p['sst']}", f"--wsrep-provider-options={options}",
            *([f"--init-file={self._folder / 'init.sql'}", "--wsrep-new-cluster"] if first else []),
        ]  # fmt: skip

    def kill(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None


def _user() -> list[str]:
    return ["--user=mysql"] if os.geteuid() == 0 else []


class Cluster:
    """Forms itself from three nodes; any two of them are the cluster when one is killed."""

    def __init__(self) -> None:
        # Not under the folder of a test, which no other account may enter.
        self._folder = Path(tempfile.mkdtemp(prefix="cronaca-cluster-", dir="/tmp"))
        self._folder.chmod(0o755)
        ports = [{kind: find_free_port() for kind in ("sql", "group", "ist", "sst")} for _ in range(3)]
        peers = ",".join(f"127.0.0.1:{p['group']}" for p in ports)
        self.nodes = [Node(self._folder, f"node{i + 1}", p, peers) for i, p in enumerate(ports)]

    @property
    def address(self) -> Address:
        (host, port), *others = [node.place for node in self.nodes]
        return Address(host, port, "cronaca", "cronaca", PASSWORD, tuple(others))

    def start(self) -> None:
        self.nodes[0].start(first=True)
        self.wait_synced(self.nodes[0], 1)
        for count, node in enumerate(self.nodes[1:], 2):
            node.start()
            self.wait_synced(node, count)

    def wait_synced(self, node: Node, count: int) -> None:
        """Until a node says that it has caught up with a cluster of so many."""
        wait_for(lambda: self.state(node) == ("Synced", count), 90, f"{node.name} in a cluster of {count}")

    def state(self, node: Node) -> tuple[str, int]:
        host, port = node.place
        store = Store(replace(self.address, host=host, port=port, others=()), connections=1, timeout_s=3)
        try:
            with store.transaction() as tx:
                rows = tx.fetch(
                    "SHOW STATUS WHERE Variable_name IN ('wsrep_local_state_comment', 'wsrep_cluster_size')"
                )
            status: dict[str, str] = dict(rows)
            return str(status["wsrep_local_state_comment"]), int(status["wsrep_cluster_size"])
        except StoreError:
            return "away", 0
        finally:
            store.close()

    def stop(self) -> None:
        for node in self.nodes:
            node.kill()
        shutil.rmtree(self._folder, ignore_errors=True)
