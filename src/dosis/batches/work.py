"""The work of one file: bytes and a method in, a run ready to be stored out, or why there is none. Pure."""

from dataclasses import dataclass

from pydantic import ValidationError

from dosis.intake.methods.apply import apply
from dosis.intake.methods.kept import KeptMethod
from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.outcome.outcome import Outcome
from dosis.store.batches import Made
from dosis.store.packing import pack, unpack
from dosis.store.recordings import packed
from dosis.store.runs import counted
from dosis.store.worked import worked


@dataclass(frozen=True)
class Failed:
    """Why a file made no run."""

    why: str


def made_of(name: str, data: bytes, method: bytes) -> Made | Failed:
    """A file as a run by a method; a file that is not understood or does not fit is told, never raised.

    method : packed, so that it travels once for many files.
    """
    kept = unpack(KeptMethod, method)
    try:
        choices = kept.choices(Choices())
        intake = understand("", choices, files=[SourceFile.model_construct(name=name, data=data)])
        if intake.readings is None or intake.layout is None:
            return Failed(intake.understanding.stop)
        applied = apply(kept, intake.readings, intake.layout)
        if applied.stopped:
            return Failed(applied.stopped)
        outcome = evaluate(intake.readings, applied.layout, applied.method)
    except IntakeError as error:
        return Failed(str(error))
    except (ValidationError, ValueError) as error:
        return Failed(f"It cannot be worked by this method: {_first(error)}")
    return Made(
        choices=pack(choices), cells=packed(intake.readings), worked=worked(applied.layout, applied.method, outcome),
        count=counted(intake.readings), headline=_said(outcome),
        noted="; ".join(each.text for each in applied.remarks),
    )  # fmt: skip


def _said(outcome: Outcome) -> str:
    """The verdict in a line."""
    detail = "".join(part.text for part in outcome.verdict.detail)
    return f"{outcome.verdict.headline} {detail}".strip()


def _first(error: ValueError) -> str:
    return str(error.errors()[0]["msg"]) if isinstance(error, ValidationError) else str(error)
