"""Understanding a pasted table, before a run is made of it."""

from fastapi import APIRouter

from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Understanding
from dosis.run.record import Record

router = APIRouter(prefix="/api/intake", tags=["intake"])


class Paste(Record):
    """A pasted table and the corrections made so far."""

    text: str
    choices: Choices = Choices()


@router.post("")
def understand_paste(paste: Paste) -> Understanding:
    """What Dosis understood of it. Nothing is stored."""
    return understand(paste.text, paste.choices).understanding
