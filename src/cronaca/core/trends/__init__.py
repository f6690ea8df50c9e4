"""What a curve needs: reduction to pixel columns, and the reading at a cursor."""

from cronaca.core.trends.reading import How, ReadingAt, read_at
from cronaca.core.trends.reduce import WIDEST, reduce_m4

__all__ = ["WIDEST", "How", "ReadingAt", "read_at", "reduce_m4"]
