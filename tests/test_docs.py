"""The documents say what the program does."""

import contextlib
import io
import re
import runpy

from dosis.settings import ROOT


def test_the_page_of_models_is_made_from_their_declarations() -> None:
    page = runpy.run_path(str(ROOT / "docs" / "models.py"))["page"]
    assert (ROOT / "docs" / "models.md").read_text("utf-8") == page(), "run ./dosis python docs/models.py"


def test_the_example_of_the_library_page_runs() -> None:
    code = re.search(r"```python\n(.*?)```", (ROOT / "docs" / "library.md").read_text("utf-8"), re.DOTALL)
    printed = io.StringIO()
    with contextlib.redirect_stdout(printed):
        exec(code[1], {})
    assert "logistic4" in printed.getvalue()
    assert re.search(r"estimate=6\.207", printed.getvalue())


def test_every_picture_and_page_the_readme_names_is_there() -> None:
    readme = (ROOT / "README.md").read_text("utf-8")
    for path in re.findall(r"\]\(([\w/.-]+)\)", readme):
        assert (ROOT / path).exists(), path
