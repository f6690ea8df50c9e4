"""What signing in adds to a request, and how long one password takes: `python -m bench.signing`.

The same small request to the same application, in turn: by nobody in particular (the rights are given), with
a session, with a token for programs. A session and a token are asked for anew each second."""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path
from typing import Final

from fastapi import FastAPI
from starlette.testclient import TestClient
from tests.support.signed_in import ANYBODY, BEARER, TOKEN, sign_in_at

from cronaca.api.app import create_app
from cronaca.db import Store
from cronaca.db.migrate import migrate
from cronaca.db.private_server import PrivateServer
from cronaca.services.people import Passwords

REQUESTS: Final = 1500
PASSWORDS: Final = 10
ASKED: Final = "/api/tags?limit=1"


def added(app: FastAPI) -> dict[str, list[float]]:
    """ms of each request, by who sends it."""
    gate = app.state.gate
    callers = {"rights given": {}, "session": {"Cookie": f"session={TOKEN}"}, "token": dict(BEARER)}
    found: dict[str, list[float]] = {name: [] for name in callers}
    with TestClient(app) as client:
        for _ in range(REQUESTS):
            for name, headers in callers.items():
                app.state.find_actor = gate if headers else lambda _: ANYBODY
                begun = time.perf_counter()
                answer = client.get(ASKED, headers=headers)
                found[name].append((time.perf_counter() - begun) * 1000)
                if answer.status_code != 200:
                    raise RuntimeError(answer.text)
    return found


def one_password() -> float:
    """ms for one password to be checked."""
    passwords = Passwords()
    kept = passwords.hash("violet anchor staple ribbon")
    times = []
    for _ in range(PASSWORDS):
        begun = time.perf_counter()
        passwords.fits("violet anchor staple ribbon", kept)
        times.append((time.perf_counter() - begun) * 1000)
    return statistics.median(times)


def main() -> None:
    """Runs it on a private database and prints a table."""
    with tempfile.TemporaryDirectory() as folder:
        server = PrivateServer(Path(folder) / "db")
        store = Store(server.start())
        try:
            migrate(store)
            sign_in_at(store)
            found = added(create_app(store, Path(folder)))
        finally:
            store.close()
            server.stop()
    print("| who asks | median, ms | 95th percentile, ms |\n| --- | --- | --- |")
    for name, times in found.items():
        print(f"| {name} | {statistics.median(times):.2f} | {statistics.quantiles(times, n=20)[-1]:.2f} |")
    print(f"\nOne password (Argon2id): {one_password():.0f} ms, median of {PASSWORDS}.")


if __name__ == "__main__":
    main()
