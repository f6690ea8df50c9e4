"""A password that is kept goes only where it belongs: to the endpoint, security and user it was given for;
folders are for their owner alone."""

from __future__ import annotations

import json
import os
import stat
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from cronaca.core.addresses.settings import ModbusSettings, OpcUaSettings
from cronaca.core.model import SourceSetup
from cronaca.core.ports import Request
from cronaca.core.requests import Browse, Signed, SourceTest, to_text
from cronaca.core.setup.specs import secret_belongs
from cronaca.core.setup.whole import Setup
from cronaca.main import keep_files_private
from cronaca.plant.whole import read_setup
from cronaca.recorder import requests
from cronaca.recorder.clock import AnchoredClock
from cronaca.recorder.live import LiveTable
from cronaca.recorder.outputs.queue import OutputQueue
from cronaca.recorder.requests import Servers
from cronaca.recorder.work import Work
from tests.api.conftest import api, source
from tests.api.setup_support import Api
from tests.support.builders import NOW
from tests.support.fakes import FakeDriver

__all__ = ["api", "source"]
OWN = {
    "endpoint": "opc.tcp://127.0.0.1:4840", "security": "None", "mode": "None", "user": "engineer",
    "trusted": "", "timeout_s": 1.0,
}  # fmt: skip
OTHER = [
    {"endpoint": "opc.tcp://127.0.0.9:4840"}, {"user": "somebody"}, {"trusted": "ab" * 32},
    {"security": "Basic256Sha256", "mode": "Sign"}, {"mode": "Sign"},
]  # fmt: skip


def test_only_what_says_whom_it_is_told_counts() -> None:
    kept = OpcUaSettings(**OWN)  # type: ignore[arg-type]
    assert secret_belongs(replace(kept, timeout_s=5.0, history=False), kept)
    assert not any(
        secret_belongs(OpcUaSettings(**{**OWN, **other}), kept)  # type: ignore[arg-type]
        for other in OTHER
    )
    assert not secret_belongs(ModbusSettings(), kept)


@pytest.mark.parametrize("kind", ["test_source", "browse"])
async def test_a_test_or_a_look_at_a_foreign_endpoint_is_not_told_the_kept_password(kind: str) -> None:
    told: list[str] = []

    async def asked(_: Browse, secret: str) -> dict[str, object]:
        told.append(secret)
        return {"ok": True, "reason": "", "values": []}

    def make_driver(source: SourceSetup) -> FakeDriver:
        told.append(source.secret)
        return FakeDriver()

    work = Work(LiveTable([], NOW, 256), OutputQueue(10), make_driver, AnchoredClock())
    kept = SourceSetup(1, "u1", "Line 2 server", "opc_ua", json.dumps(OWN), False, "durum")
    await work.follow(Setup((kept,), (), ()), {})
    for other in [{}, *OTHER]:
        config = {**OWN, **other}
        request = SourceTest("opc_ua", config, (), Signed("u1"))
        asked_for = request if kind == "test_source" else Browse("opc_ua", config, "i=85", Signed("u1"))
        sent = Request(1, kind, to_text(asked_for))
        answer = await requests.serve(sent, make_driver, work, Servers(browse=asked))
        assert answer["ok"] is (other == {})
        assert other == {} or "another endpoint" in answer["reason"]
    assert told == ["durum"]
    await work.end()


def test_a_source_that_is_moved_to_another_endpoint_does_not_take_its_password_along(api: Api) -> None:
    wanted = {
        "name": "Line 2 server", "protocol": "opc_ua", "secret": "durum",
        "config": {"endpoint": "opc.tcp://127.0.0.1:4840", "user": "engineer"},
    }  # fmt: skip
    place = f"/setup/sources/{api.ok('POST', '/setup/sources', wanted)['uid']}"
    moved = {**wanted, "secret": None, "config": {**wanted["config"], "endpoint": "opc.tcp://10.0.0.9:4840"}}  # type: ignore[dict-item]
    assert api.field("PUT", place, moved) == "secret"
    assert api.ok("GET", place)["has_secret"], "nothing was changed"
    assert not api.ok("PUT", place, {**moved, "secret": ""})["has_secret"]


def test_nor_does_one_that_a_set_up_file_moves(api: Api) -> None:
    wanted = {
        "name": "Line 2 server", "protocol": "opc_ua", "secret": "durum",
        "config": {"endpoint": "opc.tcp://127.0.0.1:4840", "user": "engineer"},
    }  # fmt: skip
    uid = api.ok("POST", "/setup/sources", wanted)["uid"]
    document = api.ok("GET", "/setup/document")
    document["sources"][0]["config"]["endpoint"] = "opc.tcp://10.0.0.9:4840"
    api.ok("POST", "/setup/document?write=true", document)
    assert not api.ok("GET", f"/setup/sources/{uid}")["has_secret"]
    with api.client.app.state.store.snapshot() as tx:  # type: ignore[attr-defined]
        assert [one.secret for one in read_setup(tx).sources] == [""]


class TestFolders:
    @pytest.fixture(autouse=True)
    def umask(self) -> Iterator[None]:
        before = os.umask(0o022)
        yield
        os.umask(before)

    def mode(self, path: Path) -> int:
        return stat.S_IMODE(path.stat().st_mode)

    def test_new_ones_are_for_their_owner_alone(self, tmp_path: Path) -> None:
        keep_files_private(tmp_path / "a" / "data")
        (tmp_path / "a" / "data" / "file").write_text("x")
        assert [self.mode(path) for path in sorted(tmp_path.rglob("*"))] == [0o700, 0o700, 0o600]

    def test_one_of_an_older_version_is_closed_and_its_group_may_go_on_passing(self, tmp_path: Path) -> None:
        old, passed = tmp_path / "old", tmp_path / "passed"
        for folder, mode in ((old, 0o755), (passed, 0o710)):
            folder.mkdir()
            folder.chmod(mode)
            for name in ("mariadb", "spool", "plant.pickle", "setup.json"):
                (folder / name).mkdir()
        keep_files_private(old, passed)
        assert (self.mode(old), self.mode(passed)) == (0o700, 0o710)

    def test_a_place_that_holds_anything_else_is_left(self, tmp_path: Path) -> None:
        (tmp_path / "var").mkdir(mode=0o755)
        (tmp_path / "var" / "mail").mkdir()
        keep_files_private(tmp_path / "var")
        assert self.mode(tmp_path / "var") == 0o755
