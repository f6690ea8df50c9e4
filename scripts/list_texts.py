"""Lists all that the front end says, a line each: its key in the catalogue, and the text."""

from __future__ import annotations

import json
from pathlib import Path

TEXTS = Path(__file__).parents[1] / "web" / "src" / "texts" / "en"

if __name__ == "__main__":
    for file in sorted(TEXTS.glob("*.json")):
        for key, text in json.loads(file.read_text()).items():
            print(f"{file.stem}.{key}\t{text}")
