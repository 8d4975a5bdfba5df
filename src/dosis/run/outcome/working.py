"""The working behind a value, line by line."""

from dosis.run.record import light


@light
class WorkingLine:
    """One line of the working behind a value: a label, then either one cell for each reading or a calculation."""

    step: str
    label: str
    cells: tuple[str, ...] = ()
    text: str = ""
    result: str = ""
    value: float | None = None
