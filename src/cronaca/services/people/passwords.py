"""Passwords: how good one has to be, how it is kept, and how it is checked.

NIST SP 800-63B (from memory): length and a look at what is often used count, rules of letters and digits do
not; nothing is cut off. Kept as Argon2id (RFC 9106), with a salt of its own.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from typing import Final

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from cronaca.core.errors import InvalidInput, Overloaded

LEAST: Final = 12
MOST: Final = 200
_LEAST_SCORE: Final = 3
"""Of 0 to 4: more than 10^8 guesses, by its authors."""
_LEAST_BESIDE: Final = 8
"""Characters beside one's own name."""
_LOOKED_AT: Final = 72
"""Letters whose strength is estimated: of longer ones the estimate takes long, and they are strong enough."""
_AT_ONCE: Final = 2
"""Each check takes 64 MB and a core for a moment."""
_PATIENCE_S: Final = 10.0


class Passwords:
    """Keeps and checks passwords, a few at a time."""

    def __init__(self, hasher: PasswordHasher | None = None) -> None:
        self._hasher = hasher or PasswordHasher()
        self._turns = threading.BoundedSemaphore(_AT_ONCE)
        self._nobody = ""

    def hash(self, password: str) -> str:
        """What is kept of a password. Raises Overloaded."""
        with self._turn():
            return self._hasher.hash(password)

    def fits(self, password: str, kept: str | None) -> bool:
        """Whether it is the password of which this was kept; None: of nobody, which takes as long."""
        # Made by the first check of all, whoever it is of: an unknown name must not take longer.
        self._nobody = self._nobody or self.hash("nobody")
        with self._turn():
            try:
                return self._hasher.verify(kept or self._nobody, password) and kept is not None
            except (VerificationError, InvalidHashError):
                return False

    def is_outdated(self, kept: str) -> bool:
        """Whether it was kept with other costs than are usual now."""
        return self._hasher.check_needs_rehash(kept)

    def _turn(self) -> _Turn:
        return _Turn(self._turns)


class _Turn:
    def __init__(self, turns: threading.BoundedSemaphore) -> None:
        self._turns = turns

    def __enter__(self) -> None:
        if not self._turns.acquire(timeout=_PATIENCE_S):
            raise Overloaded("sign in", 5)

    def __exit__(self, *_: object) -> None:
        self._turns.release()


def check_password(password: str, beside: Sequence[str], field: str = "password") -> None:
    """Raises InvalidInput for a password that is guessed too easily. `beside`: what is known of its person,
    such as the name, which is no part of a good one."""
    if len(password) < LEAST:
        raise InvalidInput(
            field, "password-too-short", "it has {count} characters",
            "Give at least {least}: a few words that do not belong together are easy to remember.",
            count=len(password), least=LEAST,
        )  # fmt: skip
    if len(password) > MOST:
        raise InvalidInput(
            field, "password-too-long", "it has {count} characters", "Give at most {most}.",
            count=len(password), most=MOST,
        )  # fmt: skip
    words = [*{word for text in beside for word in text.lower().split() if len(word) > 1}, "cronaca"]
    rest = password.lower()
    for word in sorted(words, key=len, reverse=True):
        rest = rest.replace(word, "")
    score = zxcvbn(password[:_LOOKED_AT], user_inputs=words)["score"]
    if score < _LEAST_SCORE or len(rest) < _LEAST_BESIDE:
        raise InvalidInput(
            field, "password-weak", "it is easy to guess",
            "Add a word or two that do not belong together; names, years and rows of keys add nothing.",
        )  # fmt: skip
