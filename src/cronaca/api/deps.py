"""What routes get handed: the store, readers, the acting person."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Annotated, cast

from fastapi import Depends, Request

from cronaca.core.errors import InvalidInput
from cronaca.core.model import Tag
from cronaca.db import Store
from cronaca.history.read.curves import CurveReader
from cronaca.history.read.series import SeriesReader
from cronaca.history.write.edits import HistoryEditor
from cronaca.plant.archives import find_archive
from cronaca.plant.tags import find_tags
from cronaca.services.derived import DerivedReader


def get_store(request: Request) -> Store:
    """The application's store."""
    return cast(Store, request.app.state.store)


def get_reader(request: Request) -> SeriesReader:
    """The application's reader of history."""
    return cast(SeriesReader, request.app.state.reader)


def get_curves(request: Request) -> CurveReader:
    """The application's reader of curves."""
    return cast(CurveReader, request.app.state.curves)


def get_made(request: Request) -> DerivedReader:
    """The application's reader of what is not kept."""
    return cast(DerivedReader, request.app.state.made)


def get_editor(request: Request) -> HistoryEditor:
    """The application's door for corrections."""
    return cast(HistoryEditor, request.app.state.editor)


StoreDep = Annotated[Store, Depends(get_store)]
ReaderDep = Annotated[SeriesReader, Depends(get_reader)]
CurvesDep = Annotated[CurveReader, Depends(get_curves)]
MadeDep = Annotated[DerivedReader, Depends(get_made)]
EditorDep = Annotated[HistoryEditor, Depends(get_editor)]


def find_known_tags(store: Store, uids: Iterable[str]) -> tuple[dict[int, Tag], list[str]]:
    """The tags there are of these uids, by number, and the uids that no tag has."""
    asked = list(uids)
    with store.snapshot() as tx:
        by_uid = find_tags(tx, asked)
    return {tag.tag_id: tag for tag in by_uid.values()}, [uid for uid in asked if uid not in by_uid]


def find_all_tags(store: Store, uids: list[str]) -> list[Tag]:
    """The tags of these uids, in order; raises when one is unknown or named twice."""
    if len(set(uids)) != len(uids):
        raise InvalidInput("tag", "tag-named-twice", "a tag is named twice", "Name each tag once.")
    with store.snapshot() as tx:
        by_uid = find_tags(tx, uids)
    missing = [uid for uid in uids if uid not in by_uid]
    if missing:
        raise InvalidInput(
            "tag", "no-tag", "there is no tag {missing}", "Take a uid from /api/tags.", missing=missing[0]
        )
    return [by_uid[uid] for uid in uids]


def find_archives(store: Store, tags: list[Tag], choices: Sequence[str]) -> dict[int, int]:
    """The archives that are chosen for tags, by number, from tag:archive by uid and name; raises
    InvalidInput."""
    numbers = {tag.uid: tag.tag_id for tag in tags}
    chosen = {}
    with store.snapshot() as tx:
        for text in choices:
            uid, _, name = text.partition(":")
            archive_id = find_archive(tx, name) if name else None
            if archive_id is None or uid not in numbers:
                raise InvalidInput(
                    "archive",
                    "names-no-archive-tag",
                    "{text!r} names no archive of a tag",
                    "Give tag:archive.",
                    text=text,
                )
            chosen[numbers[uid]] = archive_id
    return chosen
