"""Requests made from the API's description, and then bent: what nobody sends on purpose, and attackers do."""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis.core import NOT_SET

NASTY: Final[tuple[Any, ...]] = (
    None, "", " ", "x" * 5_000, "\ud800", "\x00", "'; DROP TABLE tag; --", "=1+1", "nan", "Infinity", "-1",
    "9" * 400, True, 0, -1, 1.5, 1e308, -1e308, 2**31, 2**53 + 1, 2**63, -(2**63) - 1, 10**30, 10**400,
    [], {}, [[]], [None], {"": ""}, {"a": {"a": {"a": 1}}}, "253402300799999999", "-9223372036854775809",
    "PT1H", "\u202e", "🍝" * 60, ["x"] * 300,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class FuzzRequest:
    """A request."""

    method: str
    path: str
    query: tuple[tuple[str, str], ...] = ()
    body: bytes | None = None
    operation: str = ""

    @property
    def target(self) -> str:
        """Path and query, escaped."""
        pairs = "&".join(f"{_escaped(k)}={_escaped(v)}" for k, v in self.query)
        return self.path + (f"?{pairs}" if pairs else "")


def _escaped(text: str) -> str:
    return quote(text.encode("utf-8", "surrogatepass"))


def specs(
    document: Mapping[str, Any], known: Sequence[str], each: int, number: int,
    leave_out: Callable[[str], bool] = lambda _: False,
) -> Iterator[FuzzRequest]:  # fmt: skip
    """`each` requests of every operation, half of them bent; `known` are uids and names that exist."""
    chance = random.Random(number)
    for result in schemathesis.openapi.from_dict(dict(document)).get_all_operations():
        operation: Any = result.ok()  # type: ignore[union-attr]
        label = f"{operation.method.upper()} {operation.path}"
        if leave_out(label):
            continue
        for case in _cases(operation, each, number):
            yield _wish(case, label, known, chance)


def _cases(operation: Any, each: int, number: int) -> list[Any]:  # noqa: ANN401
    found: list[Any] = []

    @seed(number)
    @settings(
        max_examples=each, database=None, deadline=None, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    @given(operation.as_strategy())
    def collect(case: Any) -> None:  # noqa: ANN401
        found.append(case)

    collect()
    return found[:each]


def _wish(case: Any, label: str, known: Sequence[str], chance: random.Random) -> FuzzRequest:  # noqa: ANN401
    path = case.path
    for name, value in (case.path_parameters or {}).items():
        chosen = chance.choice(known) if known and chance.random() < 0.7 else str(value)
        path = path.replace(f"{{{name}}}", _escaped(chosen) or "x")
    query = []
    for name, value in (case.query or {}).items():
        for one in value if isinstance(value, list) else [value]:
            bent = chance.choice(NASTY) if chance.random() < 0.15 else one
            query.append((name, chance.choice(known) if known and chance.random() < 0.2 else str(bent)))
    body = None if case.body is NOT_SET else case.body
    if body is not None and not isinstance(body, bytes):
        body = json.dumps(_bent(body, known, chance, 0.25 if chance.random() < 0.5 else 0.0)).encode()
    return FuzzRequest(case.method.upper(), path, tuple(query), body, label)


def _bent(value: Any, known: Sequence[str], chance: random.Random, share: float) -> Any:  # noqa: ANN401
    """The value with some of its parts replaced, left out or doubled."""
    if share and chance.random() < share / 4:
        return chance.choice(NASTY)
    if isinstance(value, dict):
        kept = {k: v for k, v in value.items() if not share or chance.random() > share / 8}
        return {k: _bent(v, known, chance, share) for k, v in kept.items()}
    if isinstance(value, list):
        return [_bent(one, known, chance, share) for one in value]
    if isinstance(value, str) and known and chance.random() < 0.3:
        return chance.choice(known)
    return chance.choice(NASTY) if share and chance.random() < share else value


def headers_for(spec: FuzzRequest) -> dict[str, str]:
    """The type that the route takes."""
    if spec.body is None:
        return {}
    table = spec.operation == "POST /api/setup/tags/import"
    return {"Content-Type": "text/csv" if table else "application/json"}


def complaint(
    document: Mapping[str, Any], spec: FuzzRequest, status: int, media_type: str, body: bytes
) -> str:
    """What is wrong with an answer, or nothing."""
    method, _, path = spec.operation.partition(" ")
    if status >= 500 and not (status == 503 and b"problem:" in body):
        return f"{status}: {body[:300]!r}"
    responses = document["paths"][path][method.lower()]["responses"]
    if str(status) not in responses:
        return f"{status} is not described"
    if status >= 400 and not media_type.startswith("application/problem+json"):
        return f"{status} comes as {media_type!r}"
    return ""


CORPUS: Final = Path(__file__).parent / "corpus.jsonl"
"""Requests that the tests of the API make and that are answered with success, uids left out."""


def bent_wishes(known: Sequence[str], each: int, number: int) -> Iterator[FuzzRequest]:
    """Requests that would succeed, each sent `each` times with one or some parts bent: these get past the
    first checks."""
    chance = random.Random(number)
    uids = [one for one in known if len(one) == 36] or ["0" * 36]
    for line in CORPUS.read_text().splitlines():
        entry = json.loads(line)
        for turn in range(each):
            filled = json.loads(_filled(json.dumps(entry), uids, chance))
            body = filled["body"]
            share = 0.0 if turn == 0 else chance.choice((0.03, 0.1, 0.3))
            if isinstance(body, str):
                data: bytes | None = _bent_text(body, share, chance).encode("utf-8", "surrogatepass")
            else:
                data = None if body is None else json.dumps(_bent(body, (), chance, share)).encode()
            query = tuple(
                (k, str(chance.choice(NASTY)) if share and chance.random() < share else v)
                for k, v in filled["query"]
            )
            operation = str(entry["operation"])
            method = operation.partition(" ")[0]
            yield FuzzRequest(method, filled["path"], query, data, operation)


def _filled(text: str, uids: Sequence[str], chance: random.Random) -> str:
    parts = text.split("{uid}")
    return parts[0] + "".join(chance.choice(uids) + part for part in parts[1:])


def _bent_text(text: str, share: float, chance: random.Random) -> str:
    """A table with some of its cells replaced."""
    if not share:
        return text
    lines = []
    for line in text.splitlines():
        cells = line.split(",")
        bent = [str(chance.choice(NASTY)) if chance.random() < share else cell for cell in cells]
        lines.append(",".join(bent))
    return "\n".join(lines)
