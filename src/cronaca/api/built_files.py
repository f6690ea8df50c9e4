"""The built files of the front end. Their names carry a hash of what is in them, so they never change: each
is read and compressed once, and then sent from memory."""

from __future__ import annotations

import gzip
import mimetypes
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Final

from starlette.responses import Response

_KEPT_FILES: Final = 512
"""More than one build has."""
_TEXTS: Final = ("text/", "application/javascript", "application/json", "image/svg+xml")
"""What compresses: fonts and pictures are compressed already."""


@dataclass(frozen=True, slots=True)
class _File:
    media_type: str
    content: bytes
    compressed: bytes | None


def built_file(file: Path, accepted_encodings: str) -> Response:
    """The answer with a file whose content never changes; OSError when it cannot be read."""
    found = _read(file)
    headers = {"Cache-Control": "public, max-age=31536000, immutable"}
    if found.compressed is None or "gzip" not in accepted_encodings:
        return Response(found.content, media_type=found.media_type, headers=headers)
    headers |= {"Content-Encoding": "gzip", "Vary": "Accept-Encoding"}
    return Response(found.compressed, media_type=found.media_type, headers=headers)


@lru_cache(maxsize=_KEPT_FILES)
def _read(file: Path) -> _File:
    content = file.read_bytes()
    media_type = mimetypes.guess_type(file.name)[0] or "application/octet-stream"
    # The time in a gzip header would make two servers send different bytes for one file.
    compressed = gzip.compress(content, mtime=0) if media_type.startswith(_TEXTS) else None
    return _File(media_type, content, compressed)
