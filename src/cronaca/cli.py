"""The command line: `./cronaca --help` names every command."""

from __future__ import annotations

import json
import sys
from typing import Annotated, Final

import typer
from pydantic import ValidationError

from cronaca import main as root
from cronaca.core.errors import CronacaError
from cronaca.settings import Settings

_HANDED_ON: Final = {"allow_extra_args": True, "ignore_unknown_options": True}
app = typer.Typer(
    help="Cronaca: historian, data loggers and trends for process plants.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)


def _settings() -> Settings:
    settings = Settings()
    root.set_up_logging(settings.log_level)
    return settings


@app.command()
def demo() -> None:
    """Start everything with demo data and print the address; Ctrl-C ends it."""
    from cronaca.main.demo import run_demo

    run_demo(_settings())


@app.command()
def migrate() -> None:
    """Bring the database at CRONACA_DATABASE_URL up to this program."""
    taken = root.run_migrations(_settings())
    typer.echo("\n".join(taken) if taken else "The database is up to date.")


@app.command()
def recorder() -> None:
    """Record: scan the sources, apply the loggers, commit to the database."""
    from cronaca.main.recording import run_recorder

    run_recorder(_settings())


@app.command()
def quarantine(
    name: Annotated[str, typer.Argument(help="Show one of them whole; without it all are listed")] = "",
    *,
    empty: Annotated[bool, typer.Option(help="Remove all of them")] = False,
) -> None:
    """What the database refused to store: when, of which tags, why, and the values themselves."""
    from cronaca.recorder.outputs.quarantine import list_items, read_item, remove_items

    folder = _settings().data_dir / "quarantine"
    if name:
        typer.echo(json.dumps(read_item(folder, name), indent=2))
    elif empty:
        typer.echo(f"{remove_items(folder)} removed.")
    else:
        for item in list_items(folder):
            tags = ", ".join(map(str, item.report.tag_ids))
            typer.echo(f"{item.name}  {item.report.what}  tags {tags}: {item.report.reason}")


@app.command()
def worker() -> None:
    """Do what is done in the background: compaction, summing-up, retention, reports."""
    from cronaca.main.working import run_worker

    run_worker(_settings())


@app.command()
def server() -> None:
    """Serve the API and the front end."""
    from cronaca.main.serving import run_server

    run_server(_settings())


@app.command("reset-password")
def reset_password(
    name: Annotated[str, typer.Argument(help="Of the account")],
    *,
    password: Annotated[
        str, typer.Option(prompt=True, hide_input=True, confirmation_prompt=True, help="It is asked for")
    ],
) -> None:
    """Give an account a new password, such as that of an administrator who has forgotten it."""
    from cronaca.main.serving import reset_at_machine

    reset_at_machine(_settings(), name, password)
    typer.echo(f"The password of {name} is set, and its sessions have ended.")


@app.command("demo-plant")
def demo_plant() -> None:
    """Serve the drying lines of the demo as a Modbus TCP device."""
    from cronaca.main.demo import run_demo_plant

    run_demo_plant(_settings())


@app.command()
def openapi() -> None:
    """Print the API's description (OpenAPI 3.1, JSON)."""
    from cronaca.main.serving import openapi_document

    typer.echo(json.dumps(openapi_document(), indent=2, sort_keys=True))


@app.command("setup-schema")
def setup_schema() -> None:
    """Print the form of a set-up file (JSON Schema, draft 2020-12)."""
    from cronaca.main.serving import setup_file_schema

    typer.echo(json.dumps(setup_file_schema(), indent=2, sort_keys=True))


# These two bring libraries for files of their own: no process of the plant waits for those when it starts.
@app.command(context_settings=_HANDED_ON, add_help_option=False)
def compute(context: typer.Context) -> None:
    """Compute standard aggregates (OPC UA Part 13) of a file; print CSV or JSON with status and bits."""
    from cronaca.cli_compute import app as computing

    computing(context.args, prog_name="cronaca compute", standalone_mode=False)


@app.command(context_settings=_HANDED_ON, add_help_option=False)
def history(context: typer.Context) -> None:
    """Bring history in and out, check it, measure it."""
    from cronaca.cli_history import app as histories

    histories(context.args, prog_name="cronaca history", standalone_mode=False)


def main() -> None:
    """Runs a command; an expected error is one clear line and exit code 1."""
    try:
        app()
    except KeyboardInterrupt:
        sys.exit("cronaca: stopped; nothing was kept of what was under way.")
    except CronacaError as exc:
        sys.exit(f"cronaca: {exc}")
    except ValidationError as exc:
        first = exc.errors()[0]
        sys.exit(f"cronaca: CRONACA_{'_'.join(map(str, first['loc'])).upper()}: {first['msg']}.")


if __name__ == "__main__":
    main()
