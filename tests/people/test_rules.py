"""The rules of who may what: roles, passwords, codes and waiting, on both sides of each threshold."""

from datetime import UTC, datetime, timedelta

import pytest

from dosis.people import codes, passwords, throttle
from dosis.people.rights import LabRole, Right, Rights

ANALYST, REVIEWER = frozenset({LabRole.ANALYST}), frozenset({LabRole.REVIEWER})


def test_a_role_in_one_study_is_none_in_another() -> None:
    rights = Rights(studies={3: ANALYST, 4: REVIEWER})
    assert rights.may(Right.WORK, 3) and not rights.may(Right.WORK, 4)
    assert rights.may(Right.REVIEW, 4) and not rights.may(Right.REVIEW, 3)
    assert not rights.may(Right.READ) and rights.anywhere(Right.READ)
    assert rights.where(Right.READ) == {3, 4} and rights.where(Right.WORK) == {3}


def test_a_role_everywhere_is_one_in_each_study() -> None:
    rights = Rights(everywhere=ANALYST, studies={4: REVIEWER})
    assert rights.where(Right.WORK) is None and rights.where(Right.REVIEW) == {4}
    assert rights.may(Right.WORK) and rights.may(Right.WORK, 99) and not rights.may(Right.ADMINISTER)


def test_a_token_leaves_less_and_never_more() -> None:
    whole = Rights(everywhere=ANALYST)
    only = Rights(whole.everywhere, whole.studies, frozenset({Right.READ}), 5)
    assert only.may(Right.READ, 5) and not only.may(Right.READ, 6) and not only.may(Right.READ)
    assert not only.may(Right.WORK, 5) and only.where(Right.READ) == {5} and only.where(Right.WORK) == frozenset()
    foreign = Rights(studies={3: ANALYST}, only=5)
    assert foreign.where(Right.WORK) == frozenset() and not foreign.may(Right.READ, 5)


def test_nobody_reads_who_has_no_role() -> None:
    assert not any(Rights().anywhere(right) for right in Right)


@pytest.mark.parametrize(
    ("password", "why"),
    [
        ("elf mussels", "at least 12"),  # 11 characters
        ("x" * 129, "at most 128"),
        ("password1234", "guessed"),  # in the lists of what has leaked
        ("ines arnaud 26", "guessed"),  # the person's own name
    ],
)
def test_a_weak_password_is_refused_with_what_to_do(password: str, why: str) -> None:
    with pytest.raises(passwords.Weak, match=why):
        passwords.hashed(password, about=("Ines Arnaud", "ines@lab.example"))


def test_a_good_password_fits_and_no_other_does() -> None:
    kept = passwords.hashed("twelve mussels in broth")
    assert kept.startswith("$argon2id$") and "twelve" not in kept
    assert passwords.fits("twelve mussels in broth", kept)
    assert not passwords.fits("twelve mussels in brotH", kept)
    assert not passwords.fits("twelve mussels in broth", None)


# RFC 6238, appendix B: the key "12345678901234567890", SHA-1, the last six digits of its eight.
KEY = "GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ"
RFC_6238 = [(59, "287082"), (1111111109, "081804"), (1234567890, "005924"), (2000000000, "279037")]


@pytest.mark.parametrize(("seconds", "code"), RFC_6238)
def test_codes_are_those_of_the_standard(seconds: int, code: str) -> None:
    now = datetime.fromtimestamp(seconds, UTC)
    assert codes.step_of(KEY, code, now) == seconds // 30
    assert codes.step_of(KEY, f"{int(code) ^ 1:06}", now) is None


def test_a_code_works_once_and_half_a_minute_to_either_side() -> None:
    now = datetime.fromtimestamp(1111111109, UTC)
    step = codes.step_of(KEY, "081804", now)
    assert step and codes.step_of(KEY, "081804", now, after=step) is None
    assert codes.step_of(KEY, "081804", now + timedelta(seconds=30)) == step
    assert codes.step_of(KEY, "081804", now + timedelta(seconds=61)) is None


def test_waiting_begins_with_the_fifth_refusal_and_doubles() -> None:
    now = datetime(2026, 1, 1, 12)
    free = throttle.OF_ACCOUNT
    assert throttle.wait(now, None, 0, free) == timedelta(0)
    assert throttle.wait(now, now, free - 1, free) == timedelta(0)
    assert throttle.wait(now, now, free, free) == timedelta(seconds=30)
    assert throttle.wait(now, now, free + 1, free) == timedelta(seconds=60)
    assert throttle.wait(now + timedelta(seconds=31), now, free, free) == timedelta(0)
    assert throttle.wait(now, now, free + 40, free) == throttle.WINDOW
