"""Changes applied to a run, one after the other, and what they are in words. Pure; nothing is stored."""

from collections.abc import Sequence

from dosis.run.changes import Change, ChangeError
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.readings import Readings


def changed(
    readings: Readings, layout: Layout, method: Method, changes: Sequence[Change]
) -> tuple[Layout, Method, list[str]]:
    """The layout and the method after the changes, and what each of them was.

    Raises
    ------
    ChangeError : when one does not apply.
    """
    words = []
    for each in changes:
        try:
            after = each.apply(readings, layout, method)
            words.append(each.words(readings, layout, method))  # of the state as it was
            layout, method = after
        except ChangeError:
            raise
        except ValueError as error:
            raise ChangeError(str(error)) from error
    return layout, method, words
