"""Where a run stands between draft and signed; only a draft can be changed."""

from typing import Literal

from dosis.store.database import Row

Stage = Literal["draft", "handed in", "reviewed", "signed"]

# Why a run of that stage stays as it is, and how to change it.
WHAT_TO_DO = {
    "handed in": "It waits for its review. Take it back to change it.",
    "reviewed": "It was reviewed. Take it back to change it; it is then handed in again.",
    "signed": "It was signed, and stays as it is. Open a new draft of it to change it.",
}


class Locked(Exception):
    """A run that is no draft; the message says what to do."""

    def __init__(self, stage: str) -> None:
        super().__init__(WHAT_TO_DO[stage])
        self.stage = stage


def must_be_draft(run: Row) -> None:
    """Raises Locked. run : a row that is held, with its stage."""
    if run["stage"] != "draft":
        raise Locked(run["stage"])
