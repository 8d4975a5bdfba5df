"""Evaluating readings without a server: from files and a method to answers, for the command line and for scripts."""

import json
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices, Intake
from dosis.output.terminal import answers_text
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.questions.registry import QUESTIONS, AnyStep
from dosis.run.readings import Readings

ANSWERED, FAILED, NONE = 0, 1, 2  # what the program ends with


class Refused(ValueError):
    """What cannot be evaluated, in words."""


def evaluate_files(
    files: Sequence[Path], *, question: str | None = None, model: str | None = None, method: Path | None = None,
    json_out: Path | None = None,
) -> tuple[int, str, list[str]]:  # fmt: skip
    """Evaluate files as one run: the code to end with, the answers as text, and what was understood with a doubt.

    Raises
    ------
    Refused : for a file that cannot be read, a question, model or method that there is not.
    """
    done, warned = work_out(files, question=question, model=model, method=method, whole=json_out is not None)
    if done is None:
        return NONE, "", warned
    if json_out:
        json_out.write_text(done.outcome.model_dump_json(indent=1) + "\n", "utf-8")
    return code_of(done.outcome), answers_text(done.outcome), warned


@dataclass(frozen=True)
class WorkedOut:
    """Files as a run, worked out."""

    readings: Readings
    layout: Layout
    method: Method
    outcome: Outcome


def work_out(
    files: Sequence[Path], *, question: str | None = None, model: str | None = None, method: Path | None = None,
    whole: bool = False,
) -> tuple[WorkedOut | None, list[str]]:  # fmt: skip
    """Files as one run, or None where they are not understood; and what was understood with a doubt.

    Raises
    ------
    Refused : as `evaluate_files`.
    """
    if question is not None and question not in QUESTIONS:
        raise Refused(f"“{question}” is not a question. There are: {', '.join(QUESTIONS)}.")
    intake = _intake(files, Choices(question=question))
    found = intake.understanding
    warned = [each.text.replace("**", "") for each in found.statements if each.state != "ok"]
    if intake.readings is None or intake.layout is None:
        return None, warned
    layout, default = opened(intake.readings, intake.layout, found.question)
    used = _with_model(_with_steps(default, method), model)
    outcome = evaluate(intake.readings, layout, used, whole=whole)
    return WorkedOut(intake.readings, layout, used, outcome), warned


def code_of(outcome: Outcome) -> int:
    """0 where there is an answer, 1 where one of its checks has failed, 2 where there is none."""
    leads = outcome.answers.leads
    predicted = getattr(outcome.part, "predictions", ())
    answered = any(value is not None for column in leads for value in column.values) or any(
        censor for column in leads for censor in column.censors
    )  # fmt: skip
    if not answered and not any(each.value.value is not None for each in predicted):
        return NONE
    return FAILED if any(check.state is State.FAIL for check in outcome.checks) else ANSWERED


def outcome_schema() -> dict[str, Any]:
    """The JSON schema of an outcome."""
    return Outcome.model_json_schema(mode="serialization")


def _intake(files: Sequence[Path], choices: Choices) -> Intake:
    named = ", ".join(map(str, files))
    try:
        brought = [
            SourceFile.model_construct(
                name="stdin" if str(file) == "-" else file.name,
                data=sys.stdin.buffer.read() if str(file) == "-" else file.read_bytes(),
            )
            for file in files
        ]
        return understand("", choices, files=brought)
    except (OSError, IntakeError) as error:
        raise Refused(f"{named}: {error}") from error


def _with_steps(method: Method, file: Path | None) -> Method:
    if file is None:
        return method
    try:
        given = json.loads(file.read_text("utf-8"))
        steps = given["steps"] if isinstance(given, dict) else given
        read = TypeAdapter(tuple[AnyStep, ...]).validate_python(steps)
        for step in read:
            method = method.with_step(step)
    except (OSError, ValueError, KeyError, TypeError) as error:
        why = error.errors()[0]["msg"] if isinstance(error, ValidationError) else error
        raise Refused(f"{file} is not a method this question has: {why}") from error
    return method


def _with_model(method: Method, model: str | None) -> Method:
    if model is None:
        return method
    for step in method.steps:
        if "model" in type(step).model_fields:
            try:
                return method.with_step(type(step).model_validate({**step.model_dump(), "model": model}))
            except ValidationError as error:
                said = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
                raise Refused(said) from error
    raise Refused("The working of this question has no curve to choose.")
