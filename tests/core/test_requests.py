"""What is asked of a recorder travels as it is, and what it does not know is refused."""

from __future__ import annotations

import pytest

from cronaca.core.errors import CorruptPayload
from cronaca.core.model import ValueType
from cronaca.core.requests import (
    Browse,
    Discover,
    PlaceToRead,
    RecorderRequest,
    RecordNow,
    Signed,
    SourceTest,
    WriteValue,
    from_text,
    to_text,
)


@pytest.mark.parametrize(
    "request_",
    [
        RecordNow(5),
        WriteValue(7, -0.5),
        SourceTest("modbus_tcp", {"host": "h"}, (PlaceToRead("{}", ValueType.STATE),), Signed("u", "durum")),
        Discover("opc.tcp://h:1", 3.0),
        Browse("opc_ua", {"endpoint": "opc.tcp://h:1"}, "i=85"),
    ],
)
def test_each_comes_back_as_it_went(request_: RecorderRequest) -> None:
    assert from_text(request_.kind, to_text(request_)) == request_
    assert "durum" not in repr(request_)


@pytest.mark.parametrize(
    ("kind", "text"),
    [("dance", "{}"), ("write", '{"tag_id": 1}'), ("write", '{"tag_id": "a", "value": 1}'), ("browse", "x")],
)
def test_what_is_none_is_refused(kind: str, text: str) -> None:
    with pytest.raises(CorruptPayload):
        from_text(kind, text)
