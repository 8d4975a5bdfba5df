"""Passwords: which are good enough, and how they are kept (argon2id, RFC 9106)."""

from threading import Semaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

SHORTEST, LONGEST = 12, 128  # characters; OWASP ASVS 4.0, 2.1.1 and 2.1.2
LEAST = 3  # of zxcvbn's 0 to 4: over 10^8 guesses, for one who has the lists of passwords that have leaked
# RFC 9106, section 4, second recommended choice: 3 passes over 64 MiB, four lanes.
_HASHER = PasswordHasher(time_cost=3, memory_cost=65_536, parallelism=4)
_AT_ONCE = Semaphore(2)  # so that many who sign in at the same time do not take the memory of the readings


class Weak(ValueError):
    """A password that does not do; the message says why and what to do."""


def hashed(password: str, *, about: tuple[str, ...] = ()) -> str:
    """What is kept of a password. about : words that are easily thought of, such as the person's name and address.

    Raises
    ------
    Weak : where it is short, long, or among what would be tried first.
    """
    if len(password) < SHORTEST:
        raise Weak(f"Use at least {SHORTEST} characters; a few words are easier to keep in mind than signs.")
    if len(password) > LONGEST:
        raise Weak(f"Use at most {LONGEST} characters.")
    # Of what is over 72 characters the estimate takes long, and they do not need it.
    found = zxcvbn(password[:72], user_inputs=[word for each in about for word in (each, *each.split())])
    if len(password) <= 72 and found["score"] < LEAST:
        why = found["feedback"]["warning"].rstrip(".")
        raise Weak(f"This would soon be guessed{f' ({why[:1].lower()}{why[1:]})' if why else ''}. Use other words.")
    with _AT_ONCE:
        return _HASHER.hash(password)


def fits(password: str, kept: str | None) -> bool:
    """Whether it is the password; takes as long where none is kept, so that nobody learns which accounts there are."""
    try:
        with _AT_ONCE:
            return _HASHER.verify(kept or _NOBODYS, password) and kept is not None
    except (VerificationError, InvalidHashError):
        return False


_NOBODYS = _HASHER.hash("nobody has this password")
