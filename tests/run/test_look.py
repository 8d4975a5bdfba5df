"""A figure's look as part of a run: changed, told in words, and undone like all else."""

from uuid import uuid4

import pytest

from dosis.demo import diatom
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.figure_changes import ApplyStyle, SetFigure
from dosis.run.look import Axes, FigureLook, FreeNote, Notes, Series, SeriesLook, Style, Words, told
from dosis.run.opening import opened
from dosis.run.questions.registry import QUESTIONS


def courses() -> str:
    rows = "\n".join(f"{t}\t{0.1 + 0.01 * t}\t{0.1 + 0.02 * t + 0.001 * (t % 3)}" for t in range(20))
    return f"Time (s)\tFlask 1\tFlask 2\n{rows}"


@pytest.mark.parametrize("question", list(QUESTIONS))
def test_another_look_changes_no_answer_of_any_question(question: str) -> None:
    text = courses() if QUESTIONS[question].of_curves else diatom.plate()
    intake = understand(text, Choices(question=question))
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    look = FigureLook(words=Words(title=f"T {uuid4()}"))
    after, how, words = changed(intake.readings, layout, method, [SetFigure(figure=look)])
    assert (after, how.steps, how.question, how.figure) == (layout, method.steps, method.question, look)
    assert words == [f"Figure: words title {look.words.title}"] or QUESTIONS[question].look is not None
    assert evaluate(intake.readings, after, how) == evaluate(intake.readings, layout, method)


def test_what_was_changed_is_told_as_it_is_called() -> None:
    look = FigureLook(
        axes=Axes(minor=True), series=Series(cap=1.0, own=(SeriesLook(key="a", name="Lot A", shown=False),)),
        notes=Notes(digits=2, free=(FreeNote(text="here"),)),
    )  # fmt: skip
    assert [(each.what, each.before, each.after) for each in told(None, look)] == [
        ("Figure · axes minor", "off", "on"),
        ("Figure · series cap", "2.0", "1.0"),
        ("Figure · series own", "", "a, off, Lot A"),
        ("Figure · notes digits", "4", "2"),
        ("Figure · notes free", "", "here, 0.5, 0.5"),
    ]
    assert told(look, look) == [] and told(None, FigureLook()) == []


def test_the_ledger_names_three_choices_and_counts_the_others() -> None:
    look = FigureLook(axes=Axes(minor=True, grid=True, frame="closed", ticks="in"))
    intake = understand("Std 1\t1\t0.1\nStd 2\t2\t0.2\nStd 3\t3\t0.3")
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "concentration")
    words = changed(intake.readings, layout, method, [SetFigure(figure=look)])[2]
    assert words == ["Figure: axes frame closed, axes ticks in, axes minor on and 1 more"]
    styled = changed(intake.readings, layout, method, [ApplyStyle(style=Style(name="House", look=look))])
    assert styled[2] == ["Figure: style “House”"]
    assert styled[1].figure is not None and styled[1].figure.axes == look.axes
