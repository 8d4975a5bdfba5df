"""The documents say what the program does."""

import contextlib
import io
import re
import runpy

from dosis.settings import ROOT


def test_the_pages_of_models_and_functions_are_made_from_the_code() -> None:
    pages = runpy.run_path(str(ROOT / "docs" / "pages.py"))
    for name in ("models", "reference"):
        written = (ROOT / "docs" / f"{name}.md").read_text("utf-8")
        assert written == pages[f"{name}_page"](), "run ./dosis python docs/pages.py"
    for known in ("Fit.parameters", "Fit.lack_of_fit", "Fit.read_back(", "fit_many("):
        assert f"### `{known}" in written


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
