"""Live-only archives, and the disks that archives lie on."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path, PurePosixPath

import numpy as np
import pytest

from cronaca.core.codec.batch import HistoryKey
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, SECOND, GapReason, LoggerMode, Series, Tag, ValueType, Window
from cronaca.core.setup import ArchiveSpec
from cronaca.core.setup.places import ArchivePlaces
from cronaca.db import Store
from cronaca.db.disks import Disk, disk_of, list_disks, list_places
from cronaca.history.jobs.emptying import empty_live_archives
from cronaca.history.read.series import SeriesReader
from cronaca.history.tables.partitions import Partitions
from cronaca.history.write.bulk import backfill
from cronaca.plant import archives
from cronaca.plant.changes import By
from cronaca.plant.document import read_document, write_document
from cronaca.plant.loggers import insert_logger
from cronaca.plant.tags import list_tags
from cronaca.services.sink import StoreSink
from tests.support.builders import NOW, FixedClock, a_flush, a_logger, a_tag, plant_with

BY = By("engineer", NOW)


@pytest.fixture
def permitted(store: Store, open_folder: Path) -> Iterator[Store]:
    """The same database; archives may be put into the test's directory."""
    places = ArchivePlaces(
        (PurePosixPath(open_folder), PurePosixPath("/proc")), (PurePosixPath(open_folder / "web"),)
    )
    found = Store(store.address, places=places)
    yield found
    found.close()


def a_series(start_us: int, count: int) -> Series:
    ts = start_us + np.arange(count, dtype=np.int64) * SECOND
    return Series.of(ValueType.FLOAT, ts, np.arange(count, dtype=np.float64))


def scratch_beside(store: Store, keys: dict[str, HistoryKey], tag: Tag) -> HistoryKey:
    """The same tag, recorded into a live-only archive too."""
    with store.transaction() as tx:
        uid = archives.add_archive(tx, ArchiveSpec("Scratch", live_only=True), BY)
        number = archives.get_archive(tx, uid).archive_id
        found = next(one for one in list_tags(tx) if one.name == tag.name)
        logger = a_logger(0, "l2", "scratch", number, LoggerMode.ON_CHANGE, 0, (found.tag_id,))
        insert_logger(tx, logger, NOW)
    return HistoryKey(number, keys[tag.name].tag_id, 1)


def test_a_start_empties_a_live_only_archive_and_no_other(store: Store) -> None:
    """Its segments, what still waits in the journal, and what was said to be covered; over two months."""
    tag = a_tag("Line 1 Zone 1 air temperature")
    keys = plant_with(store, [tag])
    durable, scratch = keys[tag.name], scratch_beside(store, keys, tag)
    old = a_series(NOW - 40 * DAY, 500)
    backfill(store, {durable: old, scratch: old}, Window(NOW - 41 * DAY, NOW))
    sink = StoreSink(store)
    epoch = sink.open_epoch("a", NOW) or 0
    fresh = a_series(NOW, 60)
    sink.commit(a_flush(epoch, 1, {durable: fresh, scratch: fresh}, NOW + 60 * SECOND))
    later = NOW + 100 * SECOND
    assert empty_live_archives(store, FixedClock(later)) == ["Scratch"]
    reader, window = SeriesReader(store), Window(NOW - 50 * DAY, NOW + DAY)
    (kept,) = reader.read_many([durable.tag_id], window, {durable.tag_id: durable.archive_id})
    (gone,) = reader.read_many([scratch.tag_id], window, {scratch.tag_id: scratch.archive_id})
    assert kept.samples == 560
    assert gone.samples == 0
    assert gone.blanks[0].reason is GapReason.NOT_YET_RECORDED
    assert gone.blanks[0].end_us == later
    sink.commit(a_flush(epoch, 2, {scratch: a_series(later, 5)}, later + 5 * SECOND))
    (again,) = reader.read_many([scratch.tag_id], window, {scratch.tag_id: scratch.archive_id})
    assert again.samples == 5
    assert empty_live_archives(store, FixedClock(later + DAY)) == ["Scratch"]


def test_without_one_nothing_is_done(store: Store) -> None:
    plant_with(store, [a_tag("a")])
    assert empty_live_archives(store, FixedClock()) == []


class TestDisks:
    def test_the_nearest_mount_above_is_the_disk(self) -> None:
        disks = [Disk("/", 100, 50), Disk("/data", 10, 5), Disk("/data/old", 10, 5)]
        assert [disk_of(path, disks) for path in ("/data/old/x", "/database", "/data")] == [
            disks[2], disks[0], disks[1],
        ]  # fmt: skip
        assert disk_of("/x", []) is None

    def test_a_disk_is_low_below_5_percent_or_1_gb(self) -> None:
        giga = 10**9
        assert [Disk("/", 100 * giga, free * giga).low for free in (6, 4)] == [False, True]
        assert Disk("/", 10 * giga, 999_000_000).low

    def test_an_archives_months_lie_where_it_says(self, permitted: Store, open_folder: Path) -> None:
        far = open_folder / "far"
        far.mkdir()
        far.chmod(0o777)
        tag = a_tag("Line 1 Zone 1 air temperature")
        keys = plant_with(permitted, [tag])
        with permitted.transaction() as tx:
            (row,) = archives.list_rows(tx)
            spec = ArchiveSpec(row.spec.name, directory=str(far))
            archives.change_archive(tx, row.uid, spec, BY)
        backfill(permitted, {keys[tag.name]: a_series(NOW, 100)}, Window(NOW, NOW + 100 * SECOND))
        assert [one.name for one in far.rglob("segment*.ibd")]
        with permitted.snapshot() as tx:
            (place,) = list_places(tx)
            assert list_disks(tx), "the private server has the plugin"
        assert (place.directory, place.state) == (
            str(far),
            "low" if place.disk and place.disk.low else "ok",
        )
        assert "free" in place.text

    def test_a_disk_that_is_gone_is_said(self, permitted: Store, open_folder: Path) -> None:
        far = open_folder / "far"
        with permitted.transaction() as tx:
            archives.add_archive(tx, ArchiveSpec("Far", directory=str(far)), BY)
            tx.execute("UPDATE archive SET mount = '/mnt/second' WHERE name = 'Far'")
        with permitted.snapshot() as tx:
            (place,) = list_places(tx)
        assert place.state == "absent"
        assert "is not there" in place.text

    def test_samples_do_not_wait_for_a_directory_that_cannot_be_used(self, permitted: Store) -> None:
        with permitted.transaction() as tx:
            uid = archives.add_archive(tx, ArchiveSpec("Far", directory="/proc/nowhere"), BY)
            number = archives.get_archive(tx, uid).archive_id
        Partitions(permitted).ensure([(number, 202611)])

    @pytest.mark.parametrize(
        ("fields", "field"),
        [
            ({"directory": "relative"}, "directory"), ({"directory": "/a'; DROP"}, "directory"),
            ({"directory": "/a/../b"}, "directory"), ({"live_only": True, "thin": True}, "thin"),
            ({"live_only": True, "directory": "/a"}, "directory"),
        ],
    )  # fmt: skip
    def test_what_cannot_be_names_its_field(self, fields: dict[str, object], field: str) -> None:
        with pytest.raises(InvalidInput) as refused:
            ArchiveSpec("x", **fields).checked()  # type: ignore[arg-type]
        assert refused.value.field == field

    def test_an_archive_that_holds_something_does_not_become_live_only(self, store: Store) -> None:
        tag = a_tag("a")
        keys = plant_with(store, [tag])
        backfill(store, {keys["a"]: a_series(NOW, 100)}, Window(NOW, NOW + 100 * SECOND))
        with store.transaction() as tx:
            (row,) = archives.list_rows(tx)
            with pytest.raises(InvalidInput, match="holds 100 samples"):
                archives.change_archive(tx, row.uid, ArchiveSpec(row.spec.name, live_only=True), BY)


class TestWhereAnArchiveMayBe:
    @pytest.mark.parametrize(
        "place", ["/etc/cronaca", "{tmp}-not", "{tmp}/web", "{tmp}/web/assets", "{tmp}", "{tmp}/out"]
    )
    def test_elsewhere_is_refused_and_nothing_written(
        self, permitted: Store, open_folder: Path, place: str
    ) -> None:
        """Outside, beside by name, in the program's own, around it, and through a link that leads out."""
        (open_folder / "out").symlink_to("/etc")
        spec = ArchiveSpec("Far", directory=place.replace("{tmp}", str(open_folder)))
        with pytest.raises(InvalidInput) as refused, permitted.transaction() as tx:
            archives.add_archive(tx, spec, BY)
        assert refused.value.field == "directory"
        with permitted.snapshot() as tx:
            assert archives.list_rows(tx) == []

    def test_the_databases_own_directory_is_refused(self, store: Store) -> None:
        everywhere = Store(store.address, places=ArchivePlaces((PurePosixPath("/"),)))
        with everywhere.snapshot() as tx:
            (row,) = tx.fetch("SELECT @@datadir")
        for place in (str(row[0]).rstrip("/"), f"{row[0]}mysql", str(Path(str(row[0])).parent)):
            with pytest.raises(InvalidInput, match="of its database"), everywhere.transaction() as tx:
                archives.add_archive(tx, ArchiveSpec("Far", directory=place), BY)
        everywhere.close()

    def test_without_roots_the_remedy_names_the_setting(self, store: Store) -> None:
        with pytest.raises(InvalidInput, match="CRONACA_ARCHIVE_ROOTS"), store.transaction() as tx:
            archives.add_archive(tx, ArchiveSpec("Far", directory="/srv/history"), BY)

    def test_an_archive_from_before_there_were_roots_can_still_be_changed(
        self, store: Store, permitted: Store, open_folder: Path
    ) -> None:
        place = str(open_folder / "far")
        with permitted.transaction() as tx:
            uid = archives.add_archive(tx, ArchiveSpec("Far", directory=place), BY)
        with store.transaction() as tx:
            archives.change_archive(tx, uid, ArchiveSpec("Farther", directory=place), BY)
        with pytest.raises(InvalidInput), store.transaction() as tx:
            archives.change_archive(tx, uid, ArchiveSpec("Far", directory=f"{place}/er"), BY)

    def test_a_set_up_file_is_held_to_it(self, store: Store, permitted: Store, open_folder: Path) -> None:
        with permitted.transaction() as tx:
            archives.add_archive(tx, ArchiveSpec("Far", directory=str(open_folder / "far")), BY)
            wanted = read_document(tx)
        wanted["archives"][0]["directory"] = "/etc/cronaca"
        with pytest.raises(InvalidInput, match="not below a permitted"), permitted.transaction() as tx:
            write_document(tx, wanted, BY)
