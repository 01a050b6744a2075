"""Passwords and PINs by Argon2, so many at once as the machine can bear."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.contrib.auth.hashers import Argon2PasswordHasher, PBKDF2PasswordHasher

from rooms.common.errors import Refused

AT_ONCE, PATIENCE = 2, 4.0
"""Hashes that one process works out together, and seconds that a further one waits for its turn."""
_TURNS = threading.BoundedSemaphore(AT_ONCE)


class Busy(Refused):
    """Too many try to sign in at this moment."""

    status = 503


@contextmanager
def _turn() -> Iterator[None]:
    if not _TURNS.acquire(timeout=PATIENCE):
        raise Busy("Too many are signing in at this moment. Wait a little, then try again.")
    try:
        yield
    finally:
        _TURNS.release()


class BoundedArgon2(Argon2PasswordHasher):
    """OWASP's least for Argon2id: 19 MiB, two passes, one lane (value from memory)."""

    time_cost = 2
    memory_cost = 19 * 1024
    parallelism = 1

    def encode(self, password: str, salt: str) -> str:
        with _turn():
            return str(super().encode(password, salt))

    def verify(self, password: str, encoded: str) -> bool:
        with _turn():
            return bool(super().verify(password, encoded))


class BoundedPBKDF2(PBKDF2PasswordHasher):
    """What was kept before Argon2; the right password is kept anew."""

    def verify(self, password: str, encoded: str) -> bool:
        with _turn():
            return bool(super().verify(password, encoded))

    def harden_runtime(self, password: str, encoded: str) -> Any:
        """Nothing: its time tells only that a password is older than Argon2."""
