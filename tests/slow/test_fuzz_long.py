"""Twenty thousand requests, made from the description and bent, against the running application."""

from __future__ import annotations

import http.client
import itertools
import json
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

from cronaca.db import Store
from cronaca.history.jobs.verify import verify
from cronaca.plant.tags import list_tags
from tests.support.application import Application, wait_for
from tests.support.fuzz import FuzzRequest, bent_wishes, complaint, headers_for, specs
from tests.support.signed_in import BEARER

pytestmark = [pytest.mark.slow, pytest.mark.timeout(3600)]
COUNT = 20_000
LONGEST_S = 5.0
ASKING = ("sources/test", "sources/browse", "sources/discover")
"""These wait for the recorder by design: up to ten seconds."""


@pytest.fixture
def application(empty_store: Store, tmp_path: Path) -> Iterator[Application]:
    found = Application(empty_store.address, tmp_path)
    found.start()
    yield found
    found.stop()


def test_no_answer_is_a_fault_undescribed_or_late(application: Application) -> None:
    with application.store.snapshot() as tx:
        tags = list_tags(tx)
    known = [tag.uid for tag in tags[:20]] + [tag.name for tag in tags[:5]]
    document = application.get("/api/openapi.json")
    made = itertools.chain(
        specs(document, known, 60, 11), *(bent_wishes(known, 30, seed) for seed in range(100, 110))
    )
    found, late, statuses = [], [], Counter[int]()
    for spec in itertools.islice(made, COUNT):
        if any(one in spec.operation for one in ASKING):
            continue
        start = time.monotonic()
        status, media_type, body = send(application, spec)
        seconds = time.monotonic() - start
        statuses[status] += 1
        if what := complaint(document, spec, status, media_type, body):
            found.append(f"{spec.operation} {spec.target[:200]} {(spec.body or b'')[:400]!r}: {what}")
        if seconds > LONGEST_S:
            late.append(f"{spec.operation} {spec.target[:200]}: {seconds:.1f} s")
    print(sum(statuses.values()), dict(statuses), len(late))
    assert found == [], "\n".join(found[:40])
    assert late == [], "\n".join(late[:40])
    assert sum(statuses.values()) > 15_000
    application.get("/api/setup/document")
    assert list(verify(application.store, lambda _: None)) == []
    wait_for(lambda: application.health().get("recorder", {}).get("state") == "running", 60)


def send(application: Application, spec: FuzzRequest) -> tuple[int, str, bytes]:
    connection = http.client.HTTPConnection("127.0.0.1", application.port, timeout=120)
    try:
        connection.request(spec.method, spec.target, spec.body, {**headers_for(spec), **BEARER})
        answer = connection.getresponse()
        return answer.status, answer.getheader("content-type", ""), answer.read()
    finally:
        connection.close()


def test_the_corpus_is_json_line_by_line() -> None:
    lines = (Path(__file__).parents[1] / "support" / "corpus.jsonl").read_text().splitlines()
    assert all(json.loads(line)["operation"] for line in lines)
