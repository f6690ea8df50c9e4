"""Jobs of the worker: what was asked for, by whom, how far it is, and the file that was made.

A worker claims a job and says from time to time that it is at work; one that is silent for LOST_S has ended,
and another takes its job over. Files are kept in parts, so that any server can send them.
"""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

from cronaca.core.errors import NotFound
from cronaca.core.jobs import JobState, Queue
from cronaca.core.topics import Topic
from cronaca.db.pool import Store
from cronaca.db.transaction import Row, Transaction

LOST_S: Final = 60
MOST_ATTEMPTS: Final = 3
PART_BYTES: Final = 1 << 20
_REMOVED: Final = "removed"
_PARTS_AT_ONCE: Final = 32
_ADD: Final = """
INSERT INTO job (uid, queue, kind, content, payload, name, person, permission, created_us)
VALUES (%(uid)s, %(queue)s, %(kind)s, %(content)s, %(payload)s, %(name)s, %(person)s, %(permission)s,
    %(created_us)s)
ON DUPLICATE KEY UPDATE job_id = LAST_INSERT_ID(job_id)
"""
"""Asked for again after a commit whose answer was lost it is the same job."""
_NEXT: Final = f"""
SELECT job_id, kind, content, payload, name, person, permission, attempts FROM job
WHERE queue = %(queue)s AND (state = 'waiting' OR (state = 'running'
    AND seen_at < UTC_TIMESTAMP(6) - INTERVAL {LOST_S} SECOND))
ORDER BY job_id LIMIT 1 FOR UPDATE
"""
_CLAIM: Final = """
UPDATE job SET state = 'running', attempts = attempts + 1, holder = %(holder)s, seen_at = UTC_TIMESTAMP(6),
    begun_us = %(now_us)s, share = 0
WHERE job_id = %(number)s
"""
_MINE: Final = "job_id = %(number)s AND state = 'running' AND holder = %(holder)s"
_PUT_SHARE: Final = f"UPDATE job SET share = %(share)s, seen_at = UTC_TIMESTAMP(6) WHERE {_MINE}"
_GIVE_BACK: Final = f"UPDATE job SET state = 'waiting', attempts = attempts - 1 WHERE {_MINE}"
_END: Final = f"""
UPDATE job SET state = %(state)s, problem = %(problem)s, answer = %(answer)s, file_name = %(file_name)s,
    file_bytes = %(file_bytes)s, ended_us = %(now_us)s, share = IF(%(state)s = 'done', 1, share),
    payload = NULL
WHERE {_MINE}
"""
_COLUMNS: Final = (
    "job_id, uid, kind, content, name, person, created_us, begun_us, ended_us, state, share, problem, "
    "file_name, file_bytes"
)
_LIST: Final = f"""
SELECT {_COLUMNS} FROM job WHERE queue = %(queue)s AND state <> 'removed' ORDER BY job_id DESC LIMIT %(limit)s
"""
_GET: Final = f"SELECT {_COLUMNS} FROM job WHERE uid = %(uid)s AND queue = 'people' AND state <> 'removed'"
_COUNT: Final = """
SELECT COUNT(*) FROM job WHERE queue = 'people' AND person = %(person)s AND state IN ('waiting', 'running')
"""
_PUT_STATE: Final = """
UPDATE job SET state = %(state)s, ended_us = COALESCE(ended_us, %(now_us)s), payload = NULL
WHERE job_id = %(number)s
"""
_ANSWER: Final = "SELECT state, problem, answer FROM job WHERE job_id = %(number)s"
_FORGET: Final = "DELETE FROM job WHERE job_id = %(number)s"
_EXPIRE: Final = """
UPDATE job SET state = 'removed' WHERE state <> 'removed' AND state <> 'running'
    AND ((queue = 'people' AND ended_us < %(people_us)s)
        OR (queue = 'recorder' AND created_us < %(recorder_us)s
            AND (kind <> 'fill_gap' OR ended_us IS NOT NULL)))
"""
_LEFT: Final = """
SELECT job_id FROM job WHERE state IN ('removed', 'cancelled', 'failed')
    AND (state = 'removed' OR EXISTS (SELECT 1 FROM job_file f WHERE f.job_id = job.job_id))
LIMIT 1
"""
_REMOVED_ALONE: Final = "DELETE FROM job WHERE job_id = %(number)s AND state = 'removed'"
_ADD_PART: Final = """
INSERT INTO job_file (job_id, part_no, content) VALUES (%(number)s, %(part)s, %(content)s)
ON DUPLICATE KEY UPDATE content = VALUES(content)
"""
_CLEAR: Final = "DELETE FROM job_file WHERE job_id = %(number)s LIMIT %(limit)s"
_PART: Final = "SELECT content FROM job_file WHERE job_id = %(number)s AND part_no = %(part)s"
_LONGEST_PROBLEM: Final = 500


@dataclass(frozen=True, slots=True)
class NewJob:
    """A job as it is asked for: kind and content as core/jobs.py writes them."""

    queue: Queue
    kind: str
    content: str
    person: str
    permission: str
    created_us: int
    name: str = ""
    payload: bytes | None = None
    uid: str = field(default_factory=lambda: str(uuid.uuid4()))


@dataclass(frozen=True, slots=True)
class ClaimedJob:
    """A job that a worker has begun. `spent`: it was begun too often, and ended its worker each time."""

    number: int
    kind: str
    content: str
    payload: bytes | None
    name: str
    person: str
    permission: str
    spent: bool


@dataclass(frozen=True, slots=True)
class JobRow:
    """A job as people see it. `share` of the work is done, 0 to 1; without a file `file_name` is empty."""

    number: int
    uid: str
    kind: str
    content: str
    name: str
    person: str
    created_us: int
    begun_us: int | None
    ended_us: int | None
    state: JobState
    share: float
    problem: str
    file_name: str
    file_bytes: int


@dataclass(frozen=True, slots=True)
class Ending:
    """How a job ended."""

    state: JobState
    problem: str = ""
    answer: bytes | None = None
    file_name: str = ""
    file_bytes: int = 0


def add_job(tx: Transaction, new: NewJob) -> int:
    """Puts a job into its queue; returns its number."""
    tx.changes(Topic.JOBS)
    return tx.insert(
        _ADD, uid=new.uid, queue=new.queue.value, kind=new.kind, content=new.content, payload=new.payload,
        name=new.name, person=new.person, permission=new.permission, created_us=new.created_us,
    )  # fmt: skip


def claim_job(tx: Transaction, queue: Queue, holder: str, now_us: int) -> ClaimedJob | None:
    """The next job of a queue, which is the caller's from now on; None when there is none."""
    row = tx.fetch_one(_NEXT, queue=queue.value)
    if row is None:
        return None
    number, kind, content, payload, name, person, permission, attempts = row
    tx.changes(Topic.JOBS)
    tx.execute(_CLAIM, number=number, holder=holder, now_us=now_us)
    spent = int(attempts) >= MOST_ATTEMPTS
    return ClaimedJob(number, kind, content, payload, name, person, permission, spent)


def put_share(tx: Transaction, number: int, holder: str, share: float) -> bool:
    """How far the work is, a sign of life at the same time; returns whether it is still wanted."""
    tx.changes(Topic.JOBS)
    return tx.execute(_PUT_SHARE, number=number, holder=holder, share=share) > 0


def give_back(tx: Transaction, number: int, holder: str) -> None:
    """The job waits again: its worker ends, or the database was away."""
    tx.changes(Topic.JOBS)
    tx.execute(_GIVE_BACK, number=number, holder=holder)


def end_job(tx: Transaction, number: int, holder: str, ending: Ending, now_us: int) -> bool:
    """Puts the end of a job on record; returns whether it was still wanted."""
    tx.changes(Topic.JOBS)
    changed = tx.execute(
        _END, number=number, holder=holder, state=ending.state.value, now_us=now_us,
        problem=ending.problem[:_LONGEST_PROBLEM], answer=ending.answer, file_name=ending.file_name,
        file_bytes=ending.file_bytes,
    )  # fmt: skip
    return changed > 0


def list_jobs(tx: Transaction, limit: int = 200) -> list[JobRow]:
    """The jobs of people, newest first."""
    return [_row(row) for row in tx.fetch(_LIST, queue=Queue.PEOPLE.value, limit=limit)]


def get_job(tx: Transaction, uid: str) -> JobRow:
    """A job of a person; raises NotFound."""
    row = tx.fetch_one(_GET, uid=uid)
    if row is None:
        raise NotFound("job", uid)
    return _row(row)


def count_open(tx: Transaction, person: str) -> int:
    """How many jobs of a person wait or run."""
    row = tx.fetch_one(_COUNT, person=person)
    return 0 if row is None else int(row[0])


def cancel_job(tx: Transaction, number: int, now_us: int) -> None:
    """Who works on it ends at the next step, and nothing of it is kept."""
    tx.changes(Topic.JOBS)
    tx.execute(_PUT_STATE, number=number, state=JobState.CANCELLED.value, now_us=now_us)


def remove_job(tx: Transaction, number: int, now_us: int) -> None:
    """It is not listed any more; its file goes in the background."""
    tx.changes(Topic.JOBS)
    tx.execute(_PUT_STATE, number=number, state=_REMOVED, now_us=now_us)


def find_answer(tx: Transaction, number: int) -> tuple[JobState, str, bytes | None] | None:
    """State, problem and answer of a job of a recorder; None when it is not known any more."""
    row = tx.fetch_one(_ANSWER, number=number)
    return None if row is None or row[0] == _REMOVED else (JobState(row[0]), str(row[1]), row[2])


def forget_job(tx: Transaction, number: int) -> None:
    """Its answer was taken."""
    tx.execute(_FORGET, number=number)


def put_file(store: Store, number: int, path: Path) -> int:
    """Keeps a file with its job, in place of what a worker before has left; returns its bytes."""
    clear_file(store, number)
    size = 0
    with path.open("rb") as file:
        part = 0
        while data := file.read(PART_BYTES):
            _put_part(store, number, part, data)
            part, size = part + 1, size + len(data)
    return size


def _put_part(store: Store, number: int, part: int, data: bytes) -> None:
    store.run(lambda tx: tx.execute(_ADD_PART, number=number, part=part, content=data))


def clear_file(store: Store, number: int) -> None:
    """Takes out what is kept of a file, in short transactions."""
    while store.run(lambda tx: tx.execute(_CLEAR, number=number, limit=_PARTS_AT_ONCE)):
        pass


def read_file(store: Store, number: int) -> Iterator[bytes]:
    """The file of a job, a part at a time; no connection is held between them."""
    part = 0
    while True:
        with store.snapshot() as tx:
            row = tx.fetch_one(_PART, number=number, part=part)
        if row is None:
            return
        yield row[0]
        part += 1


def clear_old(store: Store, people_us: int, recorder_us: int) -> None:
    """Removes people's jobs that ended before a time, recorders' jobs from before another one (a gap that is
    still to be filled stays), and files that nobody can reach."""

    def expire(tx: Transaction) -> None:
        if tx.execute(_EXPIRE, people_us=people_us, recorder_us=recorder_us):
            tx.changes(Topic.JOBS)

    store.run(expire)
    while True:
        with store.snapshot() as tx:
            row = tx.fetch_one(_LEFT)
        if row is None:
            return
        _clear_one(store, int(row[0]))


def _clear_one(store: Store, number: int) -> None:
    clear_file(store, number)
    store.run(lambda tx: tx.execute(_REMOVED_ALONE, number=number))


def _row(row: Row) -> JobRow:
    number, uid, kind, content, name, person, created_us, begun_us, ended_us, state, *rest = row
    share, problem, file_name, file_bytes = rest
    return JobRow(
        number, uid, kind, content, name, person, created_us, begun_us, ended_us, JobState(state),
        float(share), problem, file_name, int(file_bytes),
    )  # fmt: skip
