"""What the kinds of columns are called, in the words of the question that is asked."""

from dosis.intake.understanding import ColumnKind, KindWord
from dosis.run.questions.registry import QuestionId, question_of

WORDS: dict[ColumnKind, str] = {
    ColumnKind.NAME: "name", ColumnKind.ROLE: "role", ColumnKind.LEVEL: "concentration", ColumnKind.READING: "reading",
    ColumnKind.ERROR: "error (±)", ColumnKind.DILUTION: "dilution", ColumnKind.SERIES: "series",
    ColumnKind.VESSEL: "replicate", ColumnKind.WELL: "well", ColumnKind.PLATE: "plate",
    ColumnKind.CHANNEL: "wavelength", ColumnKind.TIME: "time point", ColumnKind.NOTE: "note",
    ColumnKind.EXCLUDED: "why left out", ColumnKind.IGNORE: "leave out",
}  # fmt: skip


def kind_words(question: QuestionId) -> tuple[KindWord, ...]:
    """Every kind a column can be taken for, as it is offered."""
    own = question_of(question).column_words
    return tuple(KindWord(kind=kind, text=own.get(kind.value, text)) for kind, text in WORDS.items())
