"""The built front end ships the licences of what is in it, the fonts' too."""

from __future__ import annotations

import json
from pathlib import Path

WEB = Path(__file__).parents[2] / "web"


def test_each_package_that_is_shipped_has_its_notice() -> None:
    notices = (WEB / "dist" / "third-party-notices.md").read_text(encoding="utf-8")
    packages = json.loads((WEB / "package.json").read_text(encoding="utf-8"))["dependencies"]
    missing = [name for name in packages if f"\n## {name} - " not in notices]
    assert missing == []
    assert "SIL OPEN FONT LICENSE" in notices
