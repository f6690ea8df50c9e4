#!/usr/bin/env bash
# Imports every module of core in an environment that holds nothing but numpy, numcodecs and lark (the parser of formulas).
set -euo pipefail
cd "$(dirname "$0")/.."
env=.cache/core-alone
if [ requirements/core.txt -nt "$env/.done" ]; then
  rm -rf "$env"
  python3 -m venv "$env"
  "$env/bin/pip" install --quiet --require-hashes -r requirements/core.txt
  touch "$env/.done"
fi
PYTHONPATH=src "$env/bin/python" - <<'PY'
import importlib
import pkgutil

import cronaca.core

names = [m.name for m in pkgutil.walk_packages(cronaca.core.__path__, "cronaca.core.")]
for name in names:
    importlib.import_module(name)
print(f"{len(names)} core modules imported")
PY
PYTHONPATH=src "$env/bin/python" -m unittest --quiet tests/core/alone_check.py
