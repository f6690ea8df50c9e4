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


def test_the_front_ends_rules_catch_a_bad_import(tmp_path: Path) -> None:
    web = ROOT / "web"
    shutil.copytree(web / "src", tmp_path / "src")
    for name in ("tsconfig.json", ".dependency-cruiser.cjs", "package.json"):
        shutil.copy(web / name, tmp_path)
    (tmp_path / "node_modules").symlink_to(web / "node_modules")
    bad = tmp_path / "src" / "shared" / "lib" / "format.ts"
    bad.write_text("import uPlot from 'uplot';\nexport const x = uPlot;\n" + bad.read_text())
    tool = web / "node_modules" / ".bin" / "depcruise"
    command = [str(tool), "src", "--config", ".dependency-cruiser.cjs"]
    done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode != 0
    assert "one-chart-adapter" in done.stdout + done.stderr
