"""The worker's jobs on the real store: files for people, the past for recorders, and whatever may fail."""

from __future__ import annotations

import csv
import io
import sys
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
import pytest

from cronaca.core.access import EVERYTHING, Actor, Permission, Permitted
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput, NotFound, NotPermitted, StoreUnavailable
from cronaca.core.jobs import FileForm, JobState, Queue
from cronaca.core.model import DAY, SECOND, Series, ValueType, Window
from cronaca.db import Store
from cronaca.exchange.tables import OnBad, Rejects, TableOptions, read_table
from cronaca.history.read.figures import FigureReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.bulk import backfill
from cronaca.logbook import jobs
from cronaca.logbook.jobs import JobRow
from cronaca.plant.tags import insert_tag
from cronaca.services import figures as s
from cronaca.services.figures import FigureService, FigureSpec, FiguresSpec, SplitSpec, WindowSpec
from cronaca.services.jobs import asking, for_people
from cronaca.services.jobs.runner import Doing, Handler, JobRunner, Outcome, WorkerEnds
from cronaca.services.jobs.specs import ExportSamples
from cronaca.services.sink import StoreSink
from cronaca.worker.jobs import JobThreads, WithJobs
from tests.support.application import wait_for
from tests.support.builders import NOW, a_flush, a_tag, plant_with
from tests.support.checks import now_us

TAG, OTHER = a_tag("Line 1 Zone 1 air temperature"), a_tag("Line 2 Zone 1 air temperature")
WINDOW = Window(NOW, NOW + 1000 * SECOND)
ME = Permitted(Actor("Operator", EVERYTHING), Permission.EXPORT)
ADA = Permitted(Actor("Ada", frozenset({Permission.EXPORT})), Permission.EXPORT)
EXPORT = ExportSamples((TAG.uid,), WINDOW.start_us, WINDOW.end_us)


def readings(count: int = 1000) -> Series:
    return Series.of(ValueType.FLOAT, NOW + np.arange(count) * SECOND, np.arange(count) / 10)


@pytest.fixture
def key(store: Store) -> HistoryKey:
    """One tag with history in segments, and another one without any."""
    keys = plant_with(store, [TAG, OTHER])
    backfill(store, {keys[TAG.name]: readings()}, WINDOW)
    return keys[TAG.name]


def runner(
    store: Store, handlers: Mapping[str, Handler], queue: Queue = Queue.PEOPLE, holder: str = "test/1",
    may_still: Callable[[str, Permission], bool] = lambda *_: True,
) -> JobRunner:  # fmt: skip
    return JobRunner(store, queue, handlers, holder, lambda: NOW, may_still=may_still)


def figures(store: Store, most_read: int | None = None) -> FigureService:
    reader = FigureReader(store, SeriesReader(store))
    return FigureService(store, reader, lambda: WINDOW.end_us, most_read=most_read)


def people(store: Store) -> JobRunner:
    return runner(store, for_people.handlers(store, figures(store)))


def found(store: Store, uid: str) -> JobRow:
    with store.snapshot() as tx:
        return jobs.get_job(tx, uid)


def parts_of(store: Store, number: int) -> int:
    with store.snapshot() as tx:
        row = tx.fetch_one("SELECT COUNT(*) FROM job_file WHERE job_id = %(number)s", number=number)
    return 0 if row is None else int(row[0])


@dataclass
class Step:
    """A handler that does what it is told."""

    work: Callable[[Doing], Outcome]
    began: list[str] = field(default_factory=list)

    def __call__(self, doing: Doing) -> Outcome:
        self.began.append(doing.name)
        return self.work(doing)


def fails_with(exc: Exception) -> Step:
    def work(_: Doing) -> Outcome:
        raise exc

    return Step(work)


class TestForPeople:
    @pytest.mark.parametrize("form", [FileForm.CSV, FileForm.PARQUET])
    def test_a_file_holds_every_recorded_sample(
        self, store: Store, key: HistoryKey, form: FileForm, tmp_path: Path
    ) -> None:
        uid = asking.ask_export(store, ME, replace(EXPORT, form=form))
        assert found(store, uid).state is JobState.WAITING
        assert people(store).run_next()
        job = found(store, uid)
        assert (job.state, job.share, job.problem, job.person) == (JobState.DONE, 1.0, "", "Operator")
        path = tmp_path / job.file_name
        path.write_bytes(b"".join(jobs.read_file(store, job.number)))
        assert path.stat().st_size == job.file_bytes
        options = TableOptions({TAG.name: ValueType.FLOAT})
        (block,) = read_table(path, options, Rejects(OnBad.STOP), lambda _: [])
        assert block.samples[TAG.name].ts_us.tolist() == readings().ts_us.tolist()
        assert block.samples[TAG.name].values.tolist() == readings().values.tolist()

    def test_what_was_recorded_a_moment_ago_is_in_it(self, store: Store) -> None:
        """It lies in the journal alone: nothing was compacted in this month."""
        keys = plant_with(store, [TAG])
        sink = StoreSink(store)
        now = now_us()
        epoch = sink.open_epoch("test", now)
        assert epoch is not None
        series = Series.of(ValueType.FLOAT, [now - SECOND], [21.5])
        sink.commit(a_flush(epoch, 1, {keys[TAG.name]: series}, now))
        uid = asking.ask_export(store, ME, replace(EXPORT, start_us=now - DAY, end_us=now + DAY))
        people(store).run_next()
        assert b',"21.5","\xc2\xb0C","Good"' in b"".join(jobs.read_file(store, found(store, uid).number))

    @pytest.mark.parametrize(
        ("change", "named"),
        [
            ({"tags": ()}, "tags"),
            ({"tags": (TAG.uid, TAG.uid)}, "tags"),
            ({"tags": ("00000000-0000-0000-0000-00000000abcd",)}, "tags"),
            ({"archives": {TAG.uid: "none"}}, "archives"),
            ({"archives": {OTHER.uid: "Process values"}}, "archives"),
            ({"end_us": NOW}, "end_us"),
        ],
    )
    def test_what_cannot_be_made_is_refused_at_once(
        self, store: Store, key: HistoryKey, change: dict[str, object], named: str
    ) -> None:
        with pytest.raises(InvalidInput) as refused:
            asking.ask_export(store, ME, replace(EXPORT, **change))  # type: ignore[arg-type]
        assert refused.value.field == named
        with store.snapshot() as tx:
            assert jobs.list_jobs(tx) == []

    def test_a_file_of_nothing_is_refused(self, store: Store, key: HistoryKey) -> None:
        with store.transaction() as tx:
            (source_id,) = tx.fetch("SELECT source_id FROM source LIMIT 1")[0]
            insert_tag(tx, replace(a_tag("Line 9 unrecorded"), uid="9" * 36, source_id=source_id))
        with pytest.raises(InvalidInput, match="none of them is recorded"):
            asking.ask_export(store, ME, replace(EXPORT, tags=("9" * 36,)))
        asking.ask_export(store, ME, replace(EXPORT, tags=("9" * 36, TAG.uid)))

    def test_nobody_has_more_than_so_many_under_way(
        self, store: Store, key: HistoryKey, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr(asking, "MOST_OPEN", 2)
        for _ in range(2):
            asking.ask_export(store, ME, EXPORT)
        with pytest.raises(InvalidInput, match="2 of your jobs"):
            asking.ask_export(store, ME, EXPORT)
        asking.ask_export(store, ADA, EXPORT)  # another person has none yet
        people(store).run_next()
        asking.ask_export(store, ME, EXPORT)

    def test_a_file_that_grows_too_large_is_given_up_and_says_what_to_do(
        self, store: Store, key: HistoryKey
    ) -> None:
        uid = asking.ask_export(store, ME, EXPORT)
        # The writer keeps back what does not fill a block.
        runner(store, for_people.handlers(store, figures(store), most_bytes=-1)).run_next()
        job = found(store, uid)
        assert job.state is JobState.FAILED
        assert "larger than" in job.problem
        assert "Parquet" in job.problem
        assert parts_of(store, job.number) == 0

    def test_one_that_is_cancelled_ends_at_its_next_step_and_leaves_nothing(
        self, store: Store, key: HistoryKey, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr("cronaca.services.jobs.runner._SAY_S", 0.0)
        uid = asking.ask_export(store, ME, EXPORT)
        steps: list[float] = []

        def work(doing: Doing) -> Outcome:
            for step in range(10):
                doing.tell(step / 10)
                steps.append(found(store, uid).share)
                if step == 2:
                    asking.cancel(store, ME, uid)
            return Outcome()

        assert runner(store, {EXPORT.kind: Step(work)}).run_next()
        assert steps == [0.0, 0.1, 0.2]
        assert found(store, uid).state is JobState.CANCELLED

    def test_one_that_is_cancelled_while_its_file_is_kept_leaves_no_file(
        self, store: Store, key: HistoryKey
    ) -> None:
        uid = asking.ask_export(store, ME, EXPORT)

        def work(doing: Doing) -> Outcome:
            path = doing.folder / "a.csv"
            path.write_bytes(b"x" * 10)
            asking.cancel(store, ME, uid)
            return Outcome(file=path)

        runner(store, {EXPORT.kind: Step(work)}).run_next()
        job = found(store, uid)
        assert (job.state, job.file_name, parts_of(store, job.number)) == (JobState.CANCELLED, "", 0)

    def test_anothers_is_ended_only_by_who_may_change_the_set_up(self, store: Store, key: HistoryKey) -> None:
        mine, hers = asking.ask_export(store, ME, EXPORT), asking.ask_export(store, ADA, EXPORT)
        for change in (asking.cancel, asking.remove):
            with pytest.raises(NotPermitted):
                change(store, ADA, mine)
        asking.remove(store, ME, hers)
        with pytest.raises(NotFound):
            found(store, hers)
        assert found(store, mine).state is JobState.WAITING

    def test_it_runs_with_the_rights_that_its_person_has_then(self, store: Store, key: HistoryKey) -> None:
        uid = asking.ask_export(store, ADA, EXPORT)
        asked: list[tuple[str, Permission]] = []

        def may_still(person: str, permission: Permission) -> bool:
            asked.append((person, permission))
            return False

        runner(store, for_people.handlers(store, figures(store)), may_still=may_still).run_next()
        assert asked == [("Ada", Permission.EXPORT)]
        assert found(store, uid).state is JobState.FAILED
        assert "permission 'export'" in found(store, uid).problem

    def test_files_go_a_week_after_the_end_or_when_removed(self, store: Store, key: HistoryKey) -> None:
        uids = [asking.ask_export(store, ME, EXPORT) for _ in range(3)]
        work = people(store)
        while work.run_next():
            pass
        numbers = [found(store, uid).number for uid in uids]
        asking.remove(store, ME, uids[0])
        with store.transaction() as tx:
            tx.execute(
                "UPDATE job SET ended_us = ended_us - %(week)s WHERE uid = %(u)s", week=8 * DAY, u=uids[1]
            )
        assert not people(store).run_next()  # nothing else to do
        assert [parts_of(store, number) for number in numbers] == [0, 0, 1]
        with store.snapshot() as tx:
            assert [job.uid for job in jobs.list_jobs(tx)] == [uids[2]]


class TestFigures:
    WANTED = FiguresSpec(
        (TAG.uid, OTHER.uid),
        (FigureSpec("TimeAverage2"), FigureSpec("Percentile", 90.0), FigureSpec("Histogram", bins=2)),
        (WindowSpec(last_us=1000 * SECOND, split=SplitSpec(500 * SECOND)),),
    )

    def test_a_file_holds_what_a_request_computes(self, store: Store, key: HistoryKey) -> None:
        service = figures(store)
        uid = asking.ask_figures(store, ME, service, self.WANTED)
        with store.transaction() as tx:  # the window stays what it was when it was asked for
            tx.execute("UPDATE recorder_epoch SET known_until_us = known_until_us + %(us)s", us=DAY)
        people(store).run_next()
        job = found(store, uid)
        assert (job.state, job.problem) == (JobState.DONE, "")
        text = b"".join(jobs.read_file(store, job.number)).decode("utf-8-sig")
        rows = list(csv.DictReader(io.StringIO(text)))
        first = [row for row in rows if row["tag"] == TAG.name]
        computed = service.compute(self.WANTED).results[0].figures
        for figure in ("TimeAverage2", "Percentile (percent=90.0)"):
            values = [float(row["value"]) for row in first if row["figure"] == figure]
            (expected,) = [f for f in computed if f.stat == figure.split()[0]]
            assert values == [one.value for one in expected.values]
        bins = [(row["item"], float(row["value"])) for row in first if row["figure"].startswith("Histogram")]
        assert [name for name, _ in bins[:4]] == ["below", "0 to 25", "25 to 50", "above"]
        assert {row["interval_start"][-6:] for row in first} <= {"+01:00", "+02:00"}
        assert {row["quality"] for row in rows if row["tag"] == OTHER.name} <= {"Bad", ""}

    def test_what_one_request_may_not_read_the_worker_may(
        self, store: Store, key: HistoryKey, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setattr("cronaca.services.figures.service._SURELY_FEW_US", 0)
        small = figures(store, most_read=1999)  # a mean and a percentile, of a thousand each
        with pytest.raises(InvalidInput, match="about 2,000 samples would have to be read") as refused:
            small.compute(self.WANTED)
        assert "POST /api/jobs" in refused.value.remedy
        with pytest.raises(InvalidInput, match="about 1,000"):
            figures(store, most_read=999).compute_each(
                {TAG.uid: [FigureSpec("Percentile")]}, self.WANTED.windows[0], s.AS_SHOWN
            )
        assert figures(store, most_read=2000).compute(self.WANTED).results
        uid = asking.ask_figures(store, ME, small, self.WANTED)
        people(store).run_next()
        assert found(store, uid).state is JobState.DONE

    @pytest.mark.parametrize(
        ("change", "field"),
        [
            ({"tags": ("00000000-0000-0000-0000-00000000abcd",)}, "tags"),
            ({"archive": "none"}, "archive"),
            ({"windows": (WindowSpec(),)}, "window"),
        ],
    )
    def test_what_cannot_be_computed_is_refused_at_once(
        self, store: Store, key: HistoryKey, change: dict[str, object], field: str
    ) -> None:
        wanted = replace(self.WANTED, **change)  # type: ignore[arg-type]
        with pytest.raises(InvalidInput) as refused:
            asking.ask_figures(store, ME, figures(store), wanted)
        assert refused.value.field == field
        with store.snapshot() as tx:
            assert jobs.list_jobs(tx) == []


class TestFaults:
    @pytest.mark.parametrize(
        ("exc", "said"),
        [
            (InvalidInput("window", "too-long", "it is too long", "Choose a shorter one."), "it is too long"),
            (ZeroDivisionError("by nothing"), "ZeroDivisionError: by nothing"),
        ],
    )
    def test_one_that_fails_says_why_and_the_next_one_is_done(
        self, store: Store, key: HistoryKey, exc: Exception, said: str
    ) -> None:
        first, second = asking.ask_export(store, ME, EXPORT), asking.ask_export(store, ME, EXPORT)
        assert runner(store, {EXPORT.kind: fails_with(exc)}).run_next()
        assert people(store).run_next()
        assert found(store, first).state is JobState.FAILED
        assert said in found(store, first).problem
        assert found(store, second).state is JobState.DONE

    @pytest.mark.parametrize("exc", [StoreUnavailable("fake:1/db", "switched off"), WorkerEnds()])
    def test_it_waits_again_while_the_database_is_away_or_the_worker_ends(
        self, store: Store, key: HistoryKey, exc: Exception
    ) -> None:
        uid = asking.ask_export(store, ME, EXPORT)
        for _ in range(jobs.MOST_ATTEMPTS + 2):
            with pytest.raises(type(exc)):
                runner(store, {EXPORT.kind: fails_with(exc)}).run_next()
            assert found(store, uid).state is JobState.WAITING
        people(store).run_next()
        assert found(store, uid).state is JobState.DONE

    def test_that_of_a_worker_that_died_is_taken_over_but_not_for_ever(
        self, store: Store, key: HistoryKey
    ) -> None:
        uid = asking.ask_export(store, ME, EXPORT)
        for attempt in range(jobs.MOST_ATTEMPTS):
            job = store.run(lambda tx: jobs.claim_job(tx, Queue.PEOPLE, "dead/1", NOW))
            assert job is not None, attempt
            assert not people(store).run_next()  # it is somebody's
            with store.transaction() as tx:
                tx.execute("UPDATE job SET seen_at = seen_at - INTERVAL %(s)s SECOND", s=jobs.LOST_S + 1)
        assert people(store).run_next()
        assert found(store, uid).state is JobState.FAILED
        assert "ended the worker each time" in found(store, uid).problem

    def test_who_comes_back_late_changes_nothing(self, store: Store, key: HistoryKey) -> None:
        uid = asking.ask_export(store, ME, EXPORT)

        def overtaken(doing: Doing) -> Outcome:
            with store.transaction() as tx:
                tx.execute("UPDATE job SET seen_at = seen_at - INTERVAL 1 DAY")
            assert people(store).run_next()  # another worker does it meanwhile
            path = doing.folder / "other.csv"
            path.write_bytes(b"old")
            return Outcome(file=path)

        runner(store, {EXPORT.kind: Step(overtaken)}, holder="slow/1").run_next()
        job = found(store, uid)
        assert (job.state, job.file_name.startswith("samples_")) == (JobState.DONE, True)

    def test_threads_go_on_after_any_failure_and_health_tells(self) -> None:
        class Fails:
            name = "people"
            failures: dict[str, str] = {}  # noqa: RUF012 - a fake

            def __init__(self) -> None:
                self.runs = 0

            def run_next(self) -> bool:
                self.runs += 1
                if self.runs == 1:
                    raise StoreUnavailable("fake:1/db", "switched off")
                if self.runs == 2:
                    raise ValueError("a row cannot be read")
                return False

        class Says:
            said: tuple[bool, str] = (False, "")

            def say(self, *, failing: bool, detail: str = "") -> None:
                self.said = (failing, detail)

        stop, queue, says = threading.Event(), Fails(), Says()
        threads = JobThreads([queue], stop, look_s=0.01)
        threads.start()
        try:
            wait_for(lambda: bool(threads.failures()))
            WithJobs(says, threads).say(failing=False)
            assert says.said == (True, "Working on jobs fails: ValueError: a row cannot be read")
        finally:
            stop.set()
            threads.join()

    @pytest.mark.filterwarnings("ignore::pytest.PytestUnhandledThreadExceptionWarning")
    def test_a_thread_that_ends_is_said(self) -> None:
        class Ends:
            name = "recorder"
            failures: dict[str, str] = {}  # noqa: RUF012 - a fake

            def run_next(self) -> bool:
                sys.exit()

        stop = threading.Event()
        threads = JobThreads([Ends()], stop, look_s=0.01)
        threads.start()
        wait_for(lambda: threads.failures() == {
            "recorder": "Jobs of recorder are not worked on: their thread has ended."
        })  # fmt: skip
        stop.set()
        threads.join()
        assert threads.failures() == {}
