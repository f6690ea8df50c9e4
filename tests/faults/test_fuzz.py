"""A bounded part of the fuzzing of the API; tests/slow has the rest, against the running application."""

from __future__ import annotations

import itertools
import json

from cronaca.core.model import Window
from cronaca.history.jobs.verify import verify
from cronaca.plant.whole import read_setup
from tests.api.conftest import Plant, plant
from tests.support.fuzz import bent_wishes, complaint, headers_for, specs

__all__ = ["plant"]
EACH, EACH_BENT = 2, 4
WAITING = ("/api/setup/sources/",)
"""These wait for an answer of the recorder, and there is none here."""


def test_no_request_made_from_the_description_or_bent_gets_an_answer_out_of_shape(plant: Plant) -> None:
    document = plant.client.get("/api/openapi.json").json()
    known = [*(tag.uid for tag in plant.tags.values()), *(tag.name for tag in plant.tags.values())]
    found: list[str] = []
    count = 0
    made = specs(document, known, EACH, 7, lambda label: any(w in label for w in WAITING))
    for spec in itertools.chain(made, bent_wishes(known, EACH_BENT, 7)):
        if any(w in spec.operation for w in WAITING):
            continue
        count += 1
        answer = plant.client.request(spec.method, spec.target, content=spec.body, headers=headers_for(spec))
        what = complaint(
            document, spec, answer.status_code, answer.headers.get("content-type", ""), answer.content
        )
        if what:
            found.append(f"{spec.operation} {spec.target[:200]} {(spec.body or b'')[:300]!r}: {what}")
    assert count > 500
    assert found == [], "\n".join([str(len(found)), *found[:40]])
    assert_valid(plant)


def assert_valid(plant: Plant) -> None:
    """The set-up that stands can be written out, read in again unchanged, and history is whole."""
    document = plant.client.get("/api/setup/document").json()
    answer = plant.client.post("/api/setup/document", json=document)
    assert answer.status_code == 200, answer.text
    assert json.loads(answer.text) is not None
    assert list(verify(plant.store, lambda _: None)) == []
    with plant.store.snapshot() as tx:
        assert read_setup(tx).tags
    assert Window(0, 1).length_us == 1
