"""What people ask of the running recorder, and its answer."""

from __future__ import annotations

import time
from typing import Any, Final

from cronaca.core.requests import RecorderRequest
from cronaca.db.pool import Store
from cronaca.services import control

_PATIENCE_S: Final = 10.0
_LOOK_S: Final = 0.1


def ask_recorder(store: Store, person: str, request: RecorderRequest) -> dict[str, Any]:
    """The recorder's answer to a person's request, or that there is none."""
    number = store.run(lambda tx: control.ask(tx, person, request))
    deadline = time.monotonic() + _PATIENCE_S
    answer = None
    while answer is None and time.monotonic() < deadline:
        time.sleep(_LOOK_S)
        with store.snapshot() as tx:
            answer = control.find_answer(tx, number)
    store.run(lambda tx: control.withdraw(tx, number))
    return answer or {"ok": False, "reason": "The recorder does not answer: start it, then try again."}
