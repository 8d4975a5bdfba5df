"""Understanding a pasted table, before a run is made of it."""

from fastapi import APIRouter

from dosis.intake.sheets import SourceFile
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Understanding
from dosis.run.record import Record

router = APIRouter(prefix="/api/intake", tags=["intake"])


class Paste(Record):
    """A pasted table, or files in its place, and the corrections made so far."""

    text: str = ""
    files: tuple[SourceFile, ...] = ()
    choices: Choices = Choices()


@router.post("")
def understand_paste(paste: Paste) -> Understanding:
    """What Dosis understood of it. Nothing is stored."""
    return understand(paste.text, paste.choices, files=paste.files, look_only=True).understanding
