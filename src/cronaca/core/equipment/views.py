"""What is looked at of a piece: the query of the link that shows its trend sheet."""

from __future__ import annotations

import json
from urllib.parse import urlencode

from cronaca.core.equipment.classes import ClassSpec, EquipmentSpec
from cronaca.core.equipment.expand import uid_in


def trend_view(of: ClassSpec, equipment_uid: str, spec: EquipmentSpec) -> str:
    """The pens of the class's trend sheet with this piece's tags; limits are guide lines."""
    tags, looks = [], {}
    for key in of.trend:
        member = of.member(key)
        if member is None or key in spec.without:
            continue
        uid = uid_in(equipment_uid, spec, "tags", key)
        tags.append(uid)
        lines = [limit for limit in spec.limits_of(member) if limit is not None]
        if lines:
            looks[uid] = {"lines": lines}
    query = {"tags": ",".join(tags), "last": "PT2H"}
    return urlencode({**query, "look": json.dumps(looks, separators=(",", ":"))} if looks else query)
