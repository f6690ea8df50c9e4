"""Files of samples, of any size: made by the worker, kept with their job."""

from __future__ import annotations

from typing import Final

from cronaca.core.errors import InvalidInput
from cronaca.core.jobs import ExportSamples
from cronaca.core.model import Window
from cronaca.db import Store
from cronaca.plant.tags import find_tags
from cronaca.services.history_files import export_history
from cronaca.services.jobs.runner import Doing, Handler, Outcome

MOST_FILE_BYTES: Final = 4 << 30


def handlers(store: Store, most_bytes: int = MOST_FILE_BYTES) -> dict[str, Handler]:
    """What the worker does for people, by kind."""

    def export(doing: Doing) -> Outcome:
        spec = doing.spec
        if not isinstance(spec, ExportSamples):
            raise TypeError(f"{spec.kind} is no export")
        path = doing.folder / f"{doing.name}.{spec.form.value}"

        def tell(share: float, _samples: int) -> None:
            if path.exists() and path.stat().st_size > most_bytes:
                raise InvalidInput(
                    "tags", f"the file would be larger than {most_bytes >> 20:,} MB",
                    "Ask for fewer tags or a shorter window, or for Parquet, which is smaller.",
                )  # fmt: skip
            doing.tell(share)

        doing.tell(0.0)
        window = Window(spec.start_us, spec.end_us)
        export_history(store, path, tag_names(store, spec.tags), window, tell, spec.archive)
        return Outcome(file=path)

    return {ExportSamples.kind: export}


def tag_names(store: Store, uids: tuple[str, ...]) -> list[str]:
    """The present names of tags; raises InvalidInput for one that does not exist."""
    with store.snapshot() as tx:
        found = find_tags(tx, list(uids))
    for uid in uids:
        if uid not in found:
            raise InvalidInput("tags", f"there is no tag {uid}", "Take a uid from /api/tags.")
    return [found[uid].name for uid in uids]
