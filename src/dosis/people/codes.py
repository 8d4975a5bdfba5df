"""One-time codes from a person's telephone, by time (RFC 6238): six digits, a new one every 30 seconds."""

from datetime import datetime

import pyotp

ISSUER = "Dosis"
STEP = 30  # seconds
LATE = 1  # steps that a clock may be off by


def new_key() -> str:
    """A key of 160 bits in base 32."""
    return pyotp.random_base32(32)


def address(key: str, email: str) -> str:
    """The otpauth: address that a telephone reads."""
    return pyotp.TOTP(key).provisioning_uri(name=email, issuer_name=ISSUER)


def step_of(key: str, code: str, now: datetime, after: int = 0) -> int | None:
    """The time step a code is of, None where it is of none. after : the step of the last one, which works once."""
    current = int(now.timestamp()) // STEP
    totp, digits = pyotp.TOTP(key), code.replace(" ", "")
    for step in range(current - LATE, current + LATE + 1):
        if step > after and pyotp.utils.strings_equal(totp.at(step * STEP), digits):
            return step
    return None
