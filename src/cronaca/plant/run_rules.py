"""Rules that find runs, as they are set up."""

from __future__ import annotations

import json
from typing import Final

from cronaca.core.model import RunOrigin, RunRule
from cronaca.db.transaction import Transaction

_RULES: Final = """
SELECT rule_id, uid, name, origin, tag_id, logger_id, facts, enabled FROM run_rule
ORDER BY NATURAL_SORT_KEY(name), name
"""


def list_rules(tx: Transaction) -> list[RunRule]:
    """All rules by name."""
    return [
        RunRule(number, uid, name, RunOrigin(origin), tag_id, logger_id, tuple(json.loads(facts)), bool(on))
        for number, uid, name, origin, tag_id, logger_id, facts, on in tx.fetch(_RULES)
    ]
