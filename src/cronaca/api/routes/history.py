"""Corrections of history, what they replaced, and what is known at all."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import Query

from cronaca.api import wire
from cronaca.api.deps import CurvesDep, EditorDep, StoreDep, find_all_tags
from cronaca.api.permissions import Corrects
from cronaca.api.routing import api_router
from cronaca.api.schemas import CoverageOut, EditIn, EditOut, ModifiedOut, Uid
from cronaca.core.codec.batch import HistoryKey
from cronaca.core.edits import EditKind
from cronaca.core.errors import InvalidInput, NotFound
from cronaca.core.model import Tag, ValueType, Window, merge
from cronaca.db import Store
from cronaca.history.write import edits
from cronaca.history.write.edits import Author, Edit, HistoryEditor
from cronaca.logbook import texts
from cronaca.plant import histories
from cronaca.plant.changes import By
from cronaca.services.acting import act_apart

router = api_router("/history", "history")

Micros = Annotated[int, Query(description="UTC microseconds since 1970")]
_WIDE = 4096
"""Columns in which gaps are told apart when a long window is asked for its coverage."""


@router.post("/edits", status_code=201)
def add_edit(store: StoreDep, editor: EditorDep, who: Corrects, body: EditIn) -> EditOut:
    """Inserts, replaces, updates or deletes samples of one tag, whole or not at all (IEC 62541-11).

    What stood there before is kept as modified history with person, time and reason. Samples of text tags
    bring their texts."""
    tag, key = _history(store, body.tag)
    asked = {"kind": body.kind.value, "reason": body.reason}
    return act_apart(
        store,
        who,
        "history",
        tag.uid,
        tag.name,
        asked,
        lambda by: _correct(store, editor, tag, key, body, by),
    )


def _correct(store: Store, editor: HistoryEditor, tag: Tag, key: HistoryKey, body: EditIn, by: By) -> EditOut:
    author = Author(by.person, by.created_us, body.reason)
    if body.kind is EditKind.DELETE:
        if body.start_us is None or body.end_us is None:
            raise InvalidInput(
                "start_us", "deletion-needs-window", "a deletion needs a window", "Give start_us and end_us."
            )
        window = Window.parse(int(body.start_us), int(body.end_us), "start_us", "end_us")
        return _out(editor.delete(key, window, author))
    samples = wire.series_of(tag.value_type, body.samples, partial(_codes, store))
    work = {
        EditKind.INSERT: editor.insert,
        EditKind.REPLACE: editor.replace,
        EditKind.UPDATE: editor.update,
    }[body.kind]
    return _out(work(key, samples, author))


@router.get("/edits")
def list_edits(store: StoreDep, tag: Annotated[Uid, Query()], start: Micros, end: Micros) -> list[EditOut]:
    """The corrections of a tag's history that touch the window, oldest first."""
    _, key = _history(store, tag)
    with store.snapshot() as tx:
        return [_out(edit) for edit in edits.list_edits(tx, key, Window.parse(start, end))]


@router.get("/modified")
def list_modified(
    store: StoreDep, tag: Annotated[Uid, Query()], start: Micros, end: Micros
) -> list[ModifiedOut]:
    """The corrections with the samples that stood there before."""
    recorded_tag, key = _history(store, tag)
    answers = []
    with store.snapshot() as tx:
        for edit in edits.list_edits(tx, key, Window.parse(start, end)):
            old = merge(edits.read_replaced(tx, edit.edit_id), recorded_tag.value_type)
            values = wire.values(old)
            if recorded_tag.value_type is ValueType.TEXT:
                known = texts.texts_of(tx, old.values.tolist())
                values = [None if code is None else known.get(int(code), "") for code in values]
            columns = {"t_us": wire.micros(old.ts_us), "v": values, "q": old.quality.tolist()}
            answers.append(ModifiedOut.model_validate({**_out(edit).model_dump(), **columns}))
    return answers


@router.get("/coverage")
def get_coverage(
    store: StoreDep, reader: CurvesDep, tag: Annotated[Uid, Query()], start: Micros, end: Micros
) -> CoverageOut:
    """When a tag was recorded, and each gap with its reason."""
    window = Window.parse(start, end)
    (recorded_tag,) = find_all_tags(store, [tag])
    (curve,) = reader.read_many([recorded_tag.tag_id], window, _WIDE)
    answer = curve.answer
    ends = [(c.start_us, answer.known_until_us if c.end_us is None else c.end_us) for c in answer.covered]
    inside = [(max(a, start), min(b, end)) for a, b in ends if a < end and b > start]
    since = answer.recorded_since_us
    return CoverageOut(
        tag=recorded_tag.uid,
        known_until_us=str(answer.known_until_us),
        recorded_since_us=None if since is None else str(since),
        covered=[[str(a), str(b)] for a, b in inside],
        gaps=[wire.gap(g, end) for g in answer.blanks],
    )


def _history(store: Store, uid: str) -> tuple[Tag, HistoryKey]:
    (tag,) = find_all_tags(store, [uid])
    with store.snapshot() as tx:
        history = histories.find_history(tx, tag.tag_id, None)
    if history is None:
        raise NotFound("history", tag.name, field="tag")
    return tag, history.key


def _codes(store: Store, values: list[str]) -> list[int]:
    with store.transaction() as tx:
        return texts.codes_of(tx, values)


def _out(edit: Edit) -> EditOut:
    return EditOut(
        edit_id=edit.edit_id, kind=edit.kind, start_us=str(edit.start_us), end_us=str(edit.end_us),
        created_us=str(edit.created_us), person=edit.person, reason=edit.reason, written=edit.written,
        replaced=edit.replaced,
    )  # fmt: skip
