"""Wrong passwords: when the next attempt is let through.

An account that somebody guesses at must not be shut to its owner. So guesses are counted for a name from one
address, which waits longer and longer; and for a name from everywhere, which takes few of them a minute, but
not from addresses from which its owner has signed in before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from cronaca.core.model import MINUTE, SECOND

FREE: Final = 5
"""Wrong passwords in a row from one address before it waits."""
FIRST_WAIT_US: Final = 15 * SECOND
LONGEST_WAIT_US: Final = 15 * MINUTE
MOST_A_MINUTE: Final = 10
"""Wrong passwords for one name from all addresses (the bound that NIST SP 800-63B sets is 100 in a row)."""


@dataclass(frozen=True, slots=True)
class Failures:
    """Wrong passwords for a name, as times in µs, oldest first.

    `here`: from the address that tries, since its last success; `anywhere`: of the last minute, from all.
    `is_known`: the name has signed in from this address before."""

    here: Sequence[int]
    anywhere: Sequence[int]
    is_known: bool


def held_back_us(failures: Failures, now_us: int) -> int:
    """How long the next attempt has to wait, µs; 0: it is let through."""
    waits = [0]
    if len(failures.here) >= FREE:
        doubled = min(len(failures.here) - FREE, 20)
        waits.append(failures.here[-1] + min(FIRST_WAIT_US << doubled, LONGEST_WAIT_US) - now_us)
    recent = [at for at in failures.anywhere if at > now_us - MINUTE]
    if len(recent) >= MOST_A_MINUTE and not failures.is_known:
        waits.append(recent[-MOST_A_MINUTE] + MINUTE - now_us)
    return max(waits)
