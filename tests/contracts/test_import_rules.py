"""The rules of imports catch a bad import: proven by adding one to a copy of the tree."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
FLOORS = "Floors are entered from above"
TOOL = Path(sys.executable).with_name("lint-imports")


def lint(tree: Path) -> subprocess.CompletedProcess[str]:
    env = {**os.environ, "PYTHONPATH": str(tree / "src")}
    return subprocess.run(
        [str(TOOL), "--no-cache"], cwd=tree, env=env, capture_output=True, text=True, check=False
    )


# In one module each of these imports would break the contract named.
BAD = [
    ("core.model", "os", "Core does no I/O"),
    ("core.model", "pymysql", "Core does no I/O"),
    ("core.model", "cronaca.db", FLOORS),
    ("db.values", "cronaca.plant.tags", FLOORS),
    ("plant.tags", "cronaca.history.tables.gaps", FLOORS),
    ("history.tables.gaps", "cronaca.logbook.runs", FLOORS),
    ("logbook.runs", "cronaca.views.sheets", FLOORS),
    ("views.sheets", "cronaca.logbook.runs", FLOORS),
    ("logbook.notes", "cronaca.exchange.arrow", FLOORS),
    ("exchange.arrow", "cronaca.db", "Formats know no database"),
    ("services.sink", "cronaca.api.wire", FLOORS),
    ("worker.loop", "cronaca.api.wire", FLOORS),
    ("api.wire", "cronaca.recorder.clock", FLOORS),
    ("api.wire", "cronaca.recorder.drivers.modbus", "Drivers are joined"),
    ("recorder.live", "cronaca.db", "Recorder knows only core ports"),
    ("recorder.live", "cronaca.recorder.drivers.modbus", "Drivers are joined"),
    ("recorder.drivers.system.driver", "cronaca.recorder.live", "Inside the recorder"),
    ("recorder.drivers.system.driver", "cronaca.recorder.drivers.internal", "Drivers do not know each other"),
    ("api.wire", "pymysql", "Only db speaks to the database"),
    ("history.tables.gaps", "pymysql", "Only db speaks to the database"),
]


def copy_tree(folder: Path) -> Path:
    shutil.copytree(ROOT / "src", folder / "src", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / ".importlinter", folder)
    return folder


@pytest.fixture(scope="module")
def broken(tmp_path_factory: pytest.TempPathFactory) -> str:
    """What is said of a tree with all bad imports in it: one run takes seconds."""
    tree = copy_tree(tmp_path_factory.mktemp("bad"))
    for module, imported, _ in BAD:
        path = tree / "src" / "cronaca" / f"{module.replace('.', '/')}.py"
        future = "from __future__ import annotations\n"
        path.write_text(path.read_text().replace(future, f"{future}import {imported}\n", 1))
    done = lint(tree)
    assert done.returncode != 0
    return done.stdout


@pytest.mark.parametrize(("module", "imported", "contract"), BAD)
def test_a_bad_import_is_caught(broken: str, module: str, imported: str, contract: str) -> None:
    # Each contract is listed by name in any case: only the import below its own heading is proof.
    heading = rf"^{re.escape(contract)}[^\n]*\n-+\n"
    (said,) = re.findall(heading + r"(.*?)(?=^\S[^\n]*\n-+\n|\Z)", broken, re.MULTILINE | re.DOTALL)
    assert re.search(rf"cronaca\.{re.escape(module)} -> {re.escape(imported)}\s+\(l\.", said)


def test_a_module_outside_of_the_floors_is_caught(tmp_path: Path) -> None:
    tree = copy_tree(tmp_path)
    (tree / "src" / "cronaca" / "utils.py").write_text("X = 1")
    done = lint(tree)
    assert done.returncode != 0
    assert "cronaca.utils" in done.stdout


def test_the_clean_tree_keeps_every_contract(tmp_path: Path) -> None:
    done = lint(copy_tree(tmp_path))
    assert done.returncode == 0, done.stdout
    assert "BROKEN" not in done.stdout


# As above, in the front end: module, what it would import, the rule, and where that leads.
WEB_BAD = [
    ("domain/time.ts", "../platform/errors", "domain", "platform/errors.ts"),
    ("domain/zone.ts", "react", "domain-is-pure", "node_modules/react/"),
    ("platform/errors.ts", "../ui", "platform", "ui/index.ts"),
    ("ui/Panel.tsx", "../entities/tags", "ui", "entities/tags.ts"),
    ("chart/curve.ts", "../entities/tags", "chart", "entities/tags.ts"),
    ("entities/tags.ts", "../features/runs", "entities", "features/runs/index.ts"),
    ("features/runs/texts.ts", "../../app/Pages", "features", "app/Pages.tsx"),
    ("features/runs/RunsPage.tsx", "../records", "feature-apart", "features/records/index.ts"),
    ("app/Pages.tsx", "../features/runs/texts", "feature-by-index", "features/runs/texts.ts"),
    ("features/records/cells.ts", "../../platform/client", "one-caller-of-the-client", "platform/client.ts"),
    ("domain/format.ts", "uplot", "one-chart-adapter", "node_modules/uplot/"),
    ("features/records/RecordsView.tsx", "../../entities/notes", "views-are-pure", "entities/notes.ts"),
]


def copy_web(folder: Path) -> Path:
    web = ROOT / "web"
    shutil.copytree(web / "src", folder / "src")
    for name in ("tsconfig.json", ".dependency-cruiser.cjs", "package.json", "eslint.config.js"):
        shutil.copy(web / name, folder)
    (folder / "node_modules").symlink_to((web / "node_modules").resolve())
    return folder


def run_web(folder: Path, *command: str) -> str:
    """What a tool says that has to find something."""
    tool = folder / "node_modules" / ".bin" / command[0]
    done = subprocess.run([tool, *command[1:]], cwd=folder, capture_output=True, text=True, check=False)
    said = done.stdout + done.stderr
    # Not by its exit code: that is the number of errors, and 256 of them are none to the system.
    assert re.search(r"\berrors?\b", said), said
    return said


@pytest.fixture(scope="module")
def broken_web(tmp_path_factory: pytest.TempPathFactory) -> str:
    """What is said of a front end with all bad imports in it."""
    folder = copy_web(tmp_path_factory.mktemp("web"))
    for module, imported, *_ in WEB_BAD:
        path = folder / "src" / module
        path.write_text(f"import '{imported}';\n{path.read_text()}")
    return run_web(folder, "depcruise", "src", "--config", ".dependency-cruiser.cjs")


@pytest.mark.parametrize(("module", "imported", "rule", "leads_to"), WEB_BAD)
def test_a_bad_import_of_the_front_end_is_caught(
    broken_web: str, module: str, imported: str, rule: str, leads_to: str
) -> None:
    said = rf"error {re.escape(rule)}: src/{re.escape(module)} →\s+\S*{re.escape(leads_to)}"
    assert re.search(said, broken_web), imported


def test_a_circle_in_the_front_end_is_caught(tmp_path: Path) -> None:
    """Which of its imports the tool names is its own choice."""
    folder = copy_web(tmp_path)
    for module, imported in (("numbers", "durations"), ("durations", "numbers")):
        path = folder / "src" / "domain" / f"{module}.ts"
        path.write_text(f"import './{imported}';\n{path.read_text()}")
    said = run_web(folder, "depcruise", "src", "--config", ".dependency-cruiser.cjs")
    assert re.search(r"error no-circles: src/domain/(numbers|durations)\.ts", said)


def test_a_component_that_calls_the_client_fails_the_lint(tmp_path: Path) -> None:
    folder = copy_web(tmp_path)
    bad = folder / "src" / "features" / "files" / "FilesPage.tsx"
    calls = "export const asked = [client.GET('/api/me'), fetch('/api/me')];\n"
    bad.write_text(f"import {{ client }} from '../../platform/client';\n{bad.read_text()}{calls}")
    said = run_web(folder, "eslint", "src/features/files/FilesPage.tsx")
    assert "no-restricted-imports" in said
    assert "no-restricted-syntax" in said
