"""How long one who was refused has to wait before the next attempt to sign in."""

from datetime import datetime, timedelta

WINDOW = timedelta(minutes=15)  # what is older is forgotten
OF_ACCOUNT, OF_ADDRESS = 5, 20  # refusals that cost nothing: a lab can sit behind one address
FIRST = timedelta(seconds=30)


def wait(now: datetime, last: datetime | None, refused: int, free: int) -> timedelta:
    """Half a minute after the first one too many, doubled with each, at most the window.

    >>> wait(datetime(2026, 1, 1, 12, 0, 10), datetime(2026, 1, 1, 12), 5, OF_ACCOUNT).seconds
    20
    """
    if last is None or refused < free:
        return timedelta(0)
    paused = min(FIRST * float(1 << min(refused - free, 10)), WINDOW)
    return max(last + paused - now, timedelta(0))
