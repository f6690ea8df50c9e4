"""How quick the codec of what the stages of the recorder leave is, beside two other ways."""

from __future__ import annotations

import json
from dataclasses import asdict

import msgspec
from pydantic import TypeAdapter

from bench.data import timed
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.model import SECOND
from cronaca.core.outputs import CoverageMark

COUNT = 200
HISTORIES = 40
HEADING = "## Codec of outputs"


def lines() -> list[str]:
    """The table; msgspec is ours. Times in ms for `COUNT` outputs."""
    keys = tuple(HistoryKey(1, number, 1) for number in range(HISTORIES))
    outputs = [CoverageMark(keys, number * SECOND, None) for number in range(COUNT)]
    text = msgspec.json.encode(outputs)
    decoder, adapter = msgspec.json.Decoder(list[CoverageMark]), TypeAdapter(list[CoverageMark])
    if adapter.dump_json(outputs) != text:
        raise RuntimeError("They do not write the same.")
    plain = timed(lambda: json.dumps([asdict(output) for output in outputs]), 3)
    rows = (
        ("msgspec", timed(lambda: msgspec.json.encode(outputs)), timed(lambda: decoder.decode(text))),
        (
            "pydantic-core",
            timed(lambda: adapter.dump_json(outputs)),
            timed(lambda: adapter.validate_json(text)),
        ),
    )
    table = [f"| {name} | {write * 1e3:.2f} ms | {read * 1e3:.2f} ms |" for name, write, read in rows]
    return [
        HEADING, "", f"{COUNT} outputs of {HISTORIES} histories each, written and read by their types.", "",
        "| library | written | read |", "| --- | --- | --- |", *table,
        f"| json and dataclasses.asdict | {plain * 1e3:.2f} ms | no types |",
    ]  # fmt: skip


if __name__ == "__main__":
    print("\n".join(lines()))
