"""What people ask of the worker: jobs of theirs, one another's to look at, and who may end one."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from typing import Final

from cronaca.core.access import Permission, Permitted
from cronaca.core.errors import InvalidInput, NotPermitted
from cronaca.core.jobs import JobState, Queue
from cronaca.core.model import Window
from cronaca.db import Store
from cronaca.db.transaction import Transaction
from cronaca.exchange.shown import basic_text
from cronaca.logbook import jobs
from cronaca.logbook.jobs import JobRow, NewJob
from cronaca.plant.histories import list_choices
from cronaca.plant.site import find_plant
from cronaca.services.acting import Act, act
from cronaca.services.figures import FigureService, FiguresSpec
from cronaca.services.jobs.for_people import export_archives, export_tags, table_selection
from cronaca.services.jobs.specs import ComputeFigures, ExportSamples, ExportTable, JobSpec, to_text

MOST_TAGS: Final = 10_000
MOST_OPEN: Final = 20
"""Jobs of one person that wait or run."""
_OPEN: Final = (JobState.WAITING, JobState.RUNNING)


def ask_export(store: Store, who: Permitted, spec: ExportSamples) -> str:
    """Has the samples written to a file; returns the uid of the job. What cannot be exported is refused at
    once: raises InvalidInput, also when many jobs of the person are under way."""
    _check_named(spec.tags)
    window = Window.parse(spec.start_us, spec.end_us, "start_us", "end_us")
    tags, archives = export_tags(store, spec.tags), export_archives(store, spec)
    with store.snapshot() as tx:
        recorded = list_choices(tx, [tag.tag_id for tag in tags], archives)
    if not any(recorded.values()):
        raise InvalidInput(
            "tags", "none-them-recorded", "none of them is recorded", "Choose tags that are recorded."
        )
    name = f"samples_{_text(store, window.start_us)}_to_{_text(store, window.end_us)}"
    content = {"tags": len(spec.tags), "form": spec.form.value}
    return _add(store, who, spec, name, content)


def ask_table(store: Store, who: Permitted, spec: ExportTable) -> str:
    """Has all rows of a table of samples written to a file; returns the uid of the job. Raises as
    `ask_export` does."""
    _check_named(spec.tags)
    of = table_selection(store, spec)
    name = f"samples_{_text(store, of.window.start_us)}_to_{_text(store, of.window.end_us)}"
    content = {"tags": len(spec.tags), "form": spec.form.value, "layout": spec.layout.value}
    return _add(store, who, spec, name, content)


def _check_named(uids: Sequence[str]) -> None:
    if not uids:
        raise InvalidInput("tags", "tags-none", "there are none", "Name at least one tag.")
    if len(set(uids)) != len(uids):
        raise InvalidInput("tags", "tag-named-twice", "a tag is named twice", "Name each tag once.")


def ask_figures(store: Store, who: Permitted, figures: FigureService, spec: FiguresSpec) -> str:
    """Has figures written to a CSV file, of windows as they are now; returns the uid of the job. Raises as
    `ask_export` does."""
    fixed = figures.fixed(spec)
    name = f"figures_{_text(store, time.time_ns() // 1000)}"
    content = {"tags": len(fixed.tags), "figures": [figure.stat for figure in fixed.figures]}
    return _add(store, who, ComputeFigures(fixed), name, content)


def _text(store: Store, at_us: int) -> str:
    with store.snapshot() as tx:
        plant = find_plant(tx)
    return basic_text(at_us, "UTC" if plant is None else plant.zone)


def _add(store: Store, who: Permitted, spec: JobSpec, name: str, content: Mapping[str, object]) -> str:
    new = NewJob(
        Queue.PEOPLE, spec.kind, to_text(spec), who.actor.name, who.permission.value,
        time.time_ns() // 1000, name,
    )  # fmt: skip

    def work(tx: Transaction, by: Act) -> str:
        if jobs.count_open(tx, by.person) >= MOST_OPEN:
            raise InvalidInput(
                "kind",
                "your-jobs-under-way",
                "{most_open} of your jobs are under way",
                "Wait until one has ended, or cancel one.",
                most_open=MOST_OPEN,
            )
        jobs.add_job(tx, new)
        by.note("job", new.uid, None, {"name": name, **content})
        return new.uid

    return act(store, who, work)


def cancel(store: Store, who: Permitted, uid: str) -> JobRow:
    """Ends a job that waits or runs; one that has ended stays as it is. Raises NotFound, NotPermitted."""
    return _change(store, who, uid, "cancelled", _cancel)


def _cancel(tx: Transaction, job: JobRow, now_us: int) -> None:
    if job.state in _OPEN:
        jobs.cancel_job(tx, job.number, now_us)


def remove(store: Store, who: Permitted, uid: str) -> None:
    """Takes a job and its file away; one that runs ends. Raises NotFound, NotPermitted."""
    _change(store, who, uid, "removed", lambda tx, job, us: jobs.remove_job(tx, job.number, us))


def _change(
    store: Store, who: Permitted, uid: str, what: str, change: Callable[[Transaction, JobRow, int], None]
) -> JobRow:
    """One's own jobs; another's only with the right to change the set-up."""

    def work(tx: Transaction, by: Act) -> JobRow:
        job = jobs.get_job(tx, uid)
        if job.person != by.person and Permission.CONFIGURE not in who.actor.permissions:
            raise NotPermitted(by.person, Permission.CONFIGURE.value)
        change(tx, job, by.created_us)
        by.note("job", uid, {"name": job.name, "state": job.state.value}, {"name": job.name, "state": what})
        return job

    return act(store, who, work)
