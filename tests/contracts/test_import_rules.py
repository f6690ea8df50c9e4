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
TOOL = Path(sys.executable).with_name("lint-imports")


def lint(tree: Path) -> subprocess.CompletedProcess[str]:
    env = {**os.environ, "PYTHONPATH": str(tree / "src")}
    return subprocess.run(
        [str(TOOL), "--no-cache"], cwd=tree, env=env, capture_output=True, text=True, check=False
    )


@pytest.fixture
def tree(tmp_path: Path) -> Path:
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / ".importlinter", tmp_path)
    return tmp_path


@pytest.mark.parametrize(
    ("module", "line", "broken"),
    [
        ("core/model.py", "import os", "Core does no I/O"),
        ("core/model.py", "import pymysql", "Core does no I/O"),
        ("core/model.py", "from cronaca.store import Store", "Layers point inward"),
        ("recorder/live.py", "from cronaca.store import Store", "Recorder knows only core ports"),
        ("api/wire.py", "from cronaca.sources.modbus import ModbusDriver", "API never talks to a device"),
        ("api/wire.py", "import pymysql", "Only store speaks to the database"),
        ("store/values.py", "from cronaca.exchange import arrow", "Layers point inward"),
        ("utils.py", "X = 1", "Layers point inward"),
    ],
)
def test_a_bad_import_is_caught(tree: Path, module: str, line: str, broken: str) -> None:
    path = tree / "src" / "cronaca" / module
    before = path.read_text() if path.exists() else ""
    path.write_text(
        before.replace(
            "from __future__ import annotations\n", f"from __future__ import annotations\n\n{line}\n", 1
        )
        or line
    )
    done = lint(tree)
    assert done.returncode != 0
    # Each contract is listed by name in any case: only the verdict behind the name is proof.
    assert re.search(rf"^{re.escape(broken)}.* BROKEN$", done.stdout, re.MULTILINE)


def test_the_clean_tree_keeps_every_contract(tree: Path) -> None:
    done = lint(tree)
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
