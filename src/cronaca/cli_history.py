"""Commands on whole histories: `./cronaca history --help`."""

from __future__ import annotations

import getpass
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn
from rich.table import Table

from cronaca import main as root
from cronaca.core.errors import InvalidInput
from cronaca.core.model import DAY, LATEST, Window
from cronaca.db import Store
from cronaca.exchange.tables import OnBad
from cronaca.history.jobs import retention
from cronaca.history.jobs.sizes import list_sizes, size_on_disk
from cronaca.history.jobs.verify import verify as verify_store
from cronaca.plant.archives import get_archive_id
from cronaca.recorder.clock import AnchoredClock
from cronaca.services import reporting
from cronaca.services.history_files import ImportOptions, export_history, import_history
from cronaca.settings import Settings

app = typer.Typer(
    help="Bring history in and out, check it, measure it.", no_args_is_help=True, add_completion=False
)
_LISTED = 20


@contextmanager
def _store() -> Iterator[Store]:
    settings = Settings()
    root.set_up_logging(settings.log_level)
    store = root.open_store(settings)
    try:
        yield store
    finally:
        store.close()


@contextmanager
def _progress(what: str) -> Iterator[Callable[[float, int], None]]:
    """A bar on the terminal; Ctrl-C ends the work, of which nothing is kept then."""
    columns = (
        TextColumn("{task.description}"), BarColumn(), TaskProgressColumn(),
        TextColumn("{task.fields[said]}"), TimeElapsedColumn(),
    )  # fmt: skip
    with Progress(*columns, console=Console(stderr=True)) as bar:
        task = bar.add_task(what, total=1.0, said="")
        yield lambda share, count: bar.update(
            task, completed=share, said=f"{count:,} samples" if count else ""
        )


def _now_us() -> int:
    return time.time_ns() // 1000


@app.command("import")
def import_(
    file: Annotated[Path, typer.Argument(help="CSV (, ; or tab) or Parquet")],
    zone: Annotated[str, typer.Option(help="IANA zone of times without one, e.g. Europe/Rome")] = "",
    time_format: Annotated[str, typer.Option(help="strptime format, or epoch_s, epoch_ms, epoch_us")] = "",
    tag: Annotated[str, typer.Option(help="The tag of a file without a column for it")] = "",
    archive: Annotated[str, typer.Option(help="Archive to bring it into; the first one by default")] = "",
    on_bad: Annotated[OnBad, typer.Option(help="A bad line stops all, or is skipped")] = OnBad.STOP,
    rejects: Annotated[Path | None, typer.Option(help="File for the list of skipped lines")] = None,
) -> None:
    """Bring in recorded history; it is seen all at once at the end, or not at all."""
    spec = ImportOptions(file, archive, zone, time_format, tag, on_bad)
    with _store() as store, _progress(f"Importing {file.name}") as tell:
        started = time.monotonic()
        done = import_history(store, spec, getpass.getuser(), _now_us(), tell)
    seconds = max(time.monotonic() - started, 1e-3)
    typer.echo(
        f"{done.samples:,} samples of {done.tags} tags in {seconds:.1f} s ({done.samples / seconds:,.0f}/s)"
    )
    lines = done.rejected.lines
    if rejects is not None:
        rejects.write_text("".join(f"{line}\n" for line in lines))
    if lines:
        typer.echo(f"{len(lines)} lines were left out:")
        typer.echo("\n".join(f"  {line}" for line in lines[:_LISTED]))
        if len(lines) > _LISTED:
            typer.echo("  ... (--rejects FILE writes them all)")


@app.command()
def export(
    file: Annotated[Path, typer.Argument(help="What to write: .csv or .parquet")],
    tag: Annotated[list[str] | None, typer.Option(help="Only these tags; all by default")] = None,
    archive: Annotated[str, typer.Option(help="From this archive; needed where tags lie in several")] = "",
    start: Annotated[int, typer.Option(help="UTC microseconds since 1970")] = 0,
    end: Annotated[int, typer.Option(help="UTC microseconds since 1970, exclusive")] = LATEST,
    overwrite: Annotated[bool, typer.Option("--overwrite", help="Replace the file if it exists")] = False,
) -> None:
    """Write recorded samples to a file that `import` reads back to the very bit."""
    if file.exists() and not overwrite:
        raise InvalidInput(
            "file", "file-exists", "{file} exists", "Name another one, or say --overwrite.", file=file
        )
    with _store() as store, _progress(f"Exporting to {file.name}") as tell:
        samples = export_history(store, file, tag or [], Window(start, end), tell, archive)
    typer.echo(f"{samples:,} samples written to {file}")


@app.command()
def verify() -> None:
    """Read every segment: checksums, order, columns, rollups and summaries; exit code 1 on a fault."""
    count = 0
    with _store() as store, _progress("Verifying") as tell:
        for fault in verify_store(store, lambda share: tell(share, 0)):
            count += 1
            typer.echo(str(fault))
    typer.echo("No fault found." if not count else f"{count} faults found.")
    sys.exit(1 if count else 0)


@app.command()
def stats(
    most: Annotated[int, typer.Option(min=1, help="List at most so many tags")] = 50,
) -> None:
    """What history takes: samples and bytes a sample, by tag."""
    with _store() as store, store.snapshot() as tx:
        sizes, disk = list_sizes(tx), size_on_disk(tx)
    table = Table("tag", "archive", "samples", "segments", "MB", "bytes/sample")
    for size in sizes[:most]:
        ratio = size.bytes_per_sample
        table.add_row(
            size.tag, size.archive, f"{size.samples:,}", f"{size.segments:,}",
            f"{(size.bytes + size.rollup_bytes) / 1e6:.2f}", "" if ratio is None else f"{ratio:.3f}",
        )  # fmt: skip
    Console().print(table)
    samples = sum(size.samples for size in sizes)
    typer.echo(f"{len(sizes)} histories, {samples:,} samples, {disk / 1e6:,.1f} MB on disk", nl=False)
    typer.echo(f", {disk / samples:.3f} bytes a sample" if samples else "")


@app.command("reporting-account")
def reporting_account(
    name: Annotated[str, typer.Argument(help="Account to make, or to make anew")],
    host: Annotated[str, typer.Option(help="Where it may come from; % is anywhere")] = "%",
) -> None:
    """Make a database account that can read the report_... views and nothing else; asks for its password."""
    password = getpass.getpass("Password: ") if sys.stdin.isatty() else sys.stdin.readline().strip()
    with closing(root.open_admin_store(Settings())) as store, store.transaction() as tx:
        reporting.create_account(tx, name, password, host)
    typer.echo(f"{name} can read {', '.join(reporting.VIEWS)}.")


@app.command("retention")
def retention_(
    archive: Annotated[str, typer.Argument(help="Name of the archive; the first one by default")] = "",
    keep_days: Annotated[int | None, typer.Option(min=0, help="Keep so many days; 0: for ever")] = None,
    keep_gb: Annotated[float | None, typer.Option(min=0, help="Keep so many GB; 0: no limit")] = None,
    thin: Annotated[bool | None, typer.Option(help="Keep the summaries of what goes")] = None,
    save: Annotated[bool, typer.Option("--save", help="Switch it on; without, only show")] = False,
    now: Annotated[bool, typer.Option("--now", help="Do what is saved at once, not within the hour")] = False,
) -> None:
    """Show what retention would delete now, switch it on, and list what it has deleted."""
    with _store() as store:
        with store.snapshot() as tx:
            archive_id = get_archive_id(tx, archive)
            known = retention.get_policy(tx, archive_id)
            policy = retention.Policy(
                known.keep_us if keep_days is None else keep_days * DAY or None,
                known.keep_bytes if keep_gb is None else int(keep_gb * 1e9) or None,
                known.thin if thin is None else thin,
            )
            preview = retention.plan(tx, archive_id, policy, _now_us())
        _show_plan(preview)
        if save:
            with store.transaction() as tx:
                retention.put_policy(tx, archive_id, policy)
            typer.echo("Saved: the worker does it within the hour, and from then on.")
        if now:
            done = retention.Retention(store, AnchoredClock()).run(archive_id)
            typer.echo(f"{done.samples:,} samples deleted.")
        with store.snapshot() as tx:
            gone = retention.list_gone(tx, archive_id)
    for entry in gone[-_LISTED:]:
        before = _day(entry.before_us)
        what = f"{entry.samples:,} samples of {entry.month} before {before} {entry.how}"
        typer.echo(f"  {_day(entry.created_us)}: {what}")


def _show_plan(plan: retention.Plan) -> None:
    if plan.cut_us is None or not plan.doomed:
        typer.echo("Nothing would be deleted now.")
        return
    what = "thinned to summaries" if plan.thin else "deleted"
    typer.echo(f"{plan.samples:,} samples before {_day(plan.cut_us)} UTC would be {what}:")
    for part in plan.doomed:
        typer.echo(f"  {part.month}: {part.samples:,} samples, about {part.bytes / 1e6:,.1f} MB")


def _day(ts_us: int) -> str:
    return datetime.fromtimestamp(ts_us / 1e6, UTC).strftime("%Y-%m-%d %H:%M")
