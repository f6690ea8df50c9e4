"""Bytes for samples: integer columns, segments of one tag, and the journal's batches of many tags."""

from cronaca.core.codec.batch import Batch, decode_batch, encode_batch
from cronaca.core.codec.segment import MAX_SAMPLES, decode_segment, decode_segment_into, encode_segment

__all__ = [
    "MAX_SAMPLES",
    "Batch",
    "decode_batch",
    "decode_segment",
    "decode_segment_into",
    "encode_batch",
    "encode_segment",
]
