"""What a run is made from – a text, files, or one file that came in pieces – and what is understood of it, whole."""

import io
import re
import zipfile
from dataclasses import dataclass
from typing import Literal

from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices, Intake
from dosis.run.layout import Layout
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.store.packing import unpack
from dosis.store.recordings import kept
from dosis.store.worked import readings_of
from dosis.web.context import Context

Origin = Literal["pasted table", "typed table", "instrument"]
ORIGINS: tuple[Origin, ...] = ("pasted table", "typed table", "instrument")


class Brought(Record):
    """What was brought in: `text`, or `files` in its place, or the id of a `file` that came in pieces."""

    text: str = ""
    files: tuple[SourceFile, ...] = ()
    file: int | None = None
    origin: Origin = "pasted table"


@dataclass(frozen=True)
class Understood:
    """The readings, packed too, with their first layout, and the question they are asked."""

    readings: Readings
    cells: bytes
    layout: Layout
    question: QuestionId


def understood(here: Context, brought: Brought, choices: Choices, question: QuestionId | None = None) -> Understood:
    """Understand all of it, for a question where one is chosen.

    Raises
    ------
    IntakeError : what stands in the way of a run, as the page says it.
    """
    if brought.file is not None:
        if question is not None:
            choices = choices.model_copy(update={"question": question})
        found = here.read_in(brought.file, choices)
        layout = unpack(Layout, found.layout)
        return Understood(readings_of(found.cells), found.cells, layout, found.understanding.question)
    intake = here.understand(brought.text, choices, brought.files)
    if question is not None and _other_kind(intake, question):
        intake = here.understand(brought.text, choices.model_copy(update={"question": question}), brought.files)
    readings, first = _ready(intake)
    return Understood(readings, kept(readings, here.database.scratch), first, intake.understanding.question)


def _other_kind(intake: Intake, question: QuestionId) -> bool:
    """Whether the question wants curves and single numbers were understood, or the other way round."""
    return intake.readings is not None and question_of(question).of_curves != (intake.readings.axis is not None)


def _ready(intake: Intake) -> tuple[Readings, Layout]:
    if intake.readings is None or intake.layout is None:
        raise IntakeError(intake.understanding.stop)
    return intake.readings, intake.layout


def source_of(brought: Brought) -> tuple[str, bytes]:
    """The name and the bytes under which a text or files are kept."""
    if not brought.files:
        return brought.origin, brought.text.encode("utf-8", errors="replace")
    if len(brought.files) == 1:
        return brought.files[0].name, brought.files[0].data
    archived = io.BytesIO()
    with zipfile.ZipFile(archived, "w", zipfile.ZIP_DEFLATED) as archive:
        for i, file in enumerate(brought.files, start=1):
            name = _inside(file.name)
            same = sum(_inside(other.name) == name for other in brought.files) > 1
            archive.writestr(f"{i}-{name}" if same else name, file.data)
    return f"{len(brought.files)} files.zip", archived.getvalue()


def brought_of(name: str, source: bytes, file: int | None) -> Brought:
    """The same, back from what was kept."""
    if file is not None:
        return Brought(file=file)
    if "." not in name:
        origin = next((each for each in ORIGINS if each == name), ORIGINS[0])
        return Brought(text=source.decode("utf-8"), origin=origin)
    if not name.endswith(" files.zip"):
        return Brought(files=(SourceFile.model_construct(name=name, data=source),))
    with zipfile.ZipFile(io.BytesIO(source)) as archive:
        files = tuple(SourceFile.model_construct(name=each, data=archive.read(each)) for each in archive.namelist())
    return Brought(files=files)


def _inside(name: str) -> str:
    """A name that stays inside the archive: no folders, no way up, no drive."""
    last = re.split(r"[/\\\\:]", name)[-1].strip(". ")
    return last or "file"
