"""Recording groups: a set of sources with a recorder, a lease, epochs and requests of its own.

There is one today. Epochs are numbered through for all groups, so an epoch says its group, and whatever
carries an epoch (journal, present values, records, runs) carries it too: several groups need no other keys.
"""

from __future__ import annotations

from typing import Final

WHOLE_PLANT: Final = 1
"""The group that every source is in."""
