"""The private database: an account of its own in the operating system, few rights in the database."""

from __future__ import annotations

import json
import os
import pwd
import signal
import socket
import stat
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from cronaca.core.errors import StoreUnable
from cronaca.db import Store, private_server
from cronaca.db.disks import list_disks
from cronaca.db.migrate import migrate
from cronaca.db.ports import find_free_port
from cronaca.db.private_server import PrivateServer
from cronaca.db.server_account import NAME, ServerAccount
from tests.support.application import wait_for

AS_ROOT = os.geteuid() == 0
needs_root = pytest.mark.skipif(not AS_ROOT, reason="only root can start a process under another account")


@pytest.fixture
def folder() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="cronaca-test-") as found:
        yield Path(found)


def owner(path: Path) -> str:
    return pwd.getpwuid(path.stat().st_uid).pw_name


def mode(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


def processes_owner(pid: int) -> str:
    return owner(Path(f"/proc/{pid}"))


@needs_root
class TestAccount:
    def test_started_as_root_it_runs_under_its_own_account_and_shows_its_files_to_nobody(
        self, folder: Path
    ) -> None:
        server = PrivateServer(folder / "mariadb")
        server.start()
        try:
            assert server.pid is not None and processes_owner(server.pid) == NAME
        finally:
            server.stop()
        own = folder / "mariadb"
        assert {name: owner(own / name) for name in ("data", "tmp", "init.sql", "server.json")} == {
            "data": NAME, "tmp": NAME, "init.sql": NAME, "server.json": "root",
        }  # fmt: skip
        assert {name: mode(own / name) for name in ("data", "init.sql", "server.json", "server.log")} == {
            "data": 0o700, "init.sql": 0o600, "server.json": 0o600, "server.log": 0o600,
        }  # fmt: skip
        assert (mode(folder), mode(own)) == (0o710, 0o710), "its group may pass, and sees nothing"

    def test_a_folder_that_root_kept_so_far_is_handed_over_with_what_is_in_it(self, folder: Path) -> None:
        """As an older version left it: all of root, one password, an archive's table in another directory."""
        elsewhere = folder / "disk"
        elsewhere.mkdir(mode=0o777)
        elsewhere.chmod(0o777)
        server = PrivateServer(folder / "mariadb")
        store = Store(server.start())
        with store.transaction() as tx:
            tx.execute(f"CREATE TABLE kept (a INT) DATA DIRECTORY = '{elsewhere}'")
            tx.execute("INSERT INTO kept VALUES (7)")
        store.close()
        server.stop()
        for path in [folder / "mariadb", *(folder / "mariadb").rglob("*"), *elsewhere.rglob("*")]:
            os.chown(path, 0, 0)
        state = json.loads((folder / "mariadb" / "server.json").read_text())
        del state["admin_password"]
        (folder / "mariadb" / "server.json").write_text(json.dumps(state))
        again = PrivateServer(folder / "mariadb")
        store = Store(again.start())
        try:
            assert again.pid is not None and processes_owner(again.pid) == NAME
            with store.transaction() as tx:
                tx.execute("INSERT INTO kept VALUES (8)")
                assert [row[0] for row in tx.fetch("SELECT a FROM kept")] == [7, 8]
            assert {owner(path) for path in elsewhere.rglob("*")} == {NAME}
        finally:
            store.close()
            again.stop()

    def test_where_its_account_cannot_go_it_says_so_and_runs_as_root(
        self, folder: Path, caplog: pytest.LogCaptureFixture
    ) -> None:
        server = PrivateServer(folder / "closed" / "data" / "mariadb")
        (folder / "closed").mkdir(mode=0o700)
        server.start()
        try:
            assert server.pid is not None and processes_owner(server.pid) == "root"
            assert "cannot reach" in caplog.text and "chmod o+x" in caplog.text
        finally:
            server.stop()
        (folder / "closed").chmod(0o711)
        folder.chmod(0o711)
        server.start()
        try:
            assert processes_owner(server.pid) == NAME, "as soon as it can"
        finally:
            server.stop()

    def test_only_a_table_that_a_link_names_is_handed_over(self, folder: Path) -> None:
        data, other = folder / "data", folder / "passwords.ibd"
        data.mkdir()
        (folder / "secret").write_text("x")
        other.symlink_to(folder / "secret")
        (data / "a.isl").write_text(f"{other}\n")
        (data / "b.isl").write_text(f"{folder / 'secret'}\n")
        entry = pwd.getpwnam(NAME)
        ServerAccount(entry.pw_uid, entry.pw_gid).take_over(data)
        assert (owner(data / "a.isl"), owner(folder / "secret")) == (NAME, "root")


def test_it_ends_with_the_process_that_started_it(folder: Path) -> None:
    """Even by kill -9, whatever account it runs under."""
    script = (
        "import sys, time; from pathlib import Path; "
        "from cronaca.db.private_server import PrivateServer; "
        "s = PrivateServer(Path(sys.argv[1])); s.start(); print(s.pid, flush=True); time.sleep(600)"
    )
    command = [sys.executable, "-c", script, str(folder / "mariadb")]
    env = {**os.environ, "PYTHONPATH": "src"}
    with subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True) as parent:
        assert parent.stdout is not None
        pid = int(parent.stdout.readline())
        assert Path(f"/proc/{pid}").exists()
        parent.send_signal(signal.SIGKILL)
        wait_for(lambda: not Path(f"/proc/{pid}").exists(), 60, "the end of the database")


class TestRights:
    @pytest.fixture
    def own(self, database: PrivateServer) -> Iterator[Store]:
        found = Store(database.address)
        yield found
        found.close()

    @pytest.mark.parametrize("statement", [
        "SELECT 'x' INTO OUTFILE '/tmp/cronaca-must-not-be'",
        "CREATE USER other@localhost IDENTIFIED BY 'x'",
        "GRANT SELECT ON cronaca.* TO 'cronaca_admin'@'127.0.0.1'",
        "CREATE DATABASE other",
        "SELECT * FROM mysql.global_priv",
        "SET GLOBAL max_connections = 1",
        "CREATE DEFINER = 'root'@'localhost' FUNCTION f() RETURNS INT RETURN 1",
    ])  # fmt: skip
    def test_the_programs_account_can_do_nothing_beside_its_own_database(
        self, own: Store, statement: str
    ) -> None:
        with pytest.raises(StoreUnable, match="denied"), own.transaction() as tx:
            tx.execute(statement)
        assert not Path("/tmp/cronaca-must-not-be").exists()

    def test_it_brings_its_own_database_up_to_date_and_knows_the_disks(self, own: Store) -> None:
        assert migrate(own)
        with own.snapshot() as tx:
            assert all(disk.total >= disk.free >= 0 for disk in list_disks(tx))
            assert list_disks(tx)

    def test_commands_make_accounts(self, database: PrivateServer) -> None:
        admin = Store(database.admin_address)
        with admin.transaction() as tx:
            tx.execute("CREATE USER reader@localhost IDENTIFIED BY 'long enough, surely'")
        admin.close()


class TestPort:
    def test_a_port_that_was_taken_since_it_was_found_free_is_left_for_another_one(
        self, folder: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            found = iter([port, find_free_port()])
            monkeypatch.setattr(private_server, "find_free_port", lambda _: next(found))
            server = PrivateServer(folder / "mariadb")
            try:
                assert server.start().port != port
                store = Store(server.address, connections=1)
                assert store.run(lambda tx: tx.fetch("SELECT 7")) == [(7,)]
                store.close()
            finally:
                server.stop()

    def test_a_port_found_is_not_one_of_those_given_to_outgoing_connections(self) -> None:
        first = int(Path("/proc/sys/net/ipv4/ip_local_port_range").read_text().split()[0])
        assert all(15_000 <= find_free_port() < first for _ in range(50))

    def test_the_preferred_port_is_taken_when_it_is_free(self) -> None:
        port = find_free_port()
        assert find_free_port(port) == port
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", port))
            taken.listen()
            assert find_free_port(port) != port
