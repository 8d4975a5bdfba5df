"""The documents say what the program does."""

import contextlib
import gzip
import io
import json
import re
import runpy
from collections.abc import Iterator

from dosis.demo import brine_shrimp
from dosis.demo.phosphate import clean_run
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.questions.registry import QUESTIONS
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


def paragraphs() -> list[str]:
    pages = sorted((ROOT / "docs" / "guide").glob("*.md"))
    return [id for page in pages for id in re.findall(r"^## .+ \{#([\w-]+)\}$", page.read_text("utf-8"), re.MULTILINE)]


def led_to() -> Iterator[str]:
    """Every paragraph that the application leads to: of each kind of step, each check and each statistic."""
    yield from (f"step-{kind.model_fields['kind'].default}" for each in QUESTIONS.values() for kind in each.steps)
    for source in (ROOT / "src" / "dosis" / "run").rglob("*.py"):
        yield from (f"check-{id}" for id in re.findall(r"Check\(\s*id=\"(\w+)\"", source.read_text("utf-8")))
    for text, question in ((clean_run(), "concentration"), (brine_shrimp.table(), "mortality")):
        intake = understand(text)
        assert intake.readings is not None and intake.layout is not None
        outcome = evaluate(intake.readings, *opened(intake.readings, intake.layout, question))
        yield from (statistic.guide for statistic in outcome.curve.statistics)


def test_every_step_check_and_statistic_has_its_paragraph_in_the_guide() -> None:
    there, wanted = paragraphs(), set(led_to())
    assert len(there) == len(set(there))
    assert len(wanted) > 40 and wanted <= set(there), wanted - set(there)


def test_the_first_page_loads_less_than_250_kb() -> None:
    """Whatever rooms there are: the page itself, its styles, and what it names to be loaded at once."""
    dist = ROOT / "frontend" / "dist"
    named = re.findall(r"(?:src|href)=\"/(assets/[^\"]+)\"", (dist / "index.html").read_text("utf-8"))
    first = [dist / name for name in named if name.endswith((".js", ".css"))]
    assert first and sum(len(gzip.compress(path.read_bytes(), 9)) for path in first) < 250_000


def test_every_test_the_validation_page_names_is_there() -> None:
    page = (ROOT / "docs" / "validation.md").read_text("utf-8")
    named = re.findall(r"`(tests/[\w/.]+)(?:::(\w+))?`", page)
    assert len(named) > 30
    for path, name in named:
        assert (ROOT / path).exists(), path
        assert not name or f"def {name}(" in (ROOT / path).read_text("utf-8"), f"{path}::{name}"


def test_the_list_of_parts_in_security_is_that_of_the_locks() -> None:
    told = (ROOT / "docs" / "security.md").read_text("utf-8")
    lock = re.findall(r"^([A-Za-z0-9_.\-]+)==([^\s;\\]+)", (ROOT / "requirements.lock").read_text(), re.MULTILINE)
    pages = json.loads((ROOT / "frontend" / "package.json").read_text())["dependencies"]
    missing = [
        f"{name} {version}" for name, version in [*lock, *pages.items()] if f"| {name} | {version} |" not in told
    ]
    assert len(lock) > 40 and missing == []


def test_every_test_that_security_and_records_name_is_there() -> None:
    for page in ("security.md", "records.md"):
        told = (ROOT / "docs" / page).read_text("utf-8")
        for path, name in re.findall(r"`(tests/[\w/]+\.py)(?:::(test_\w+))?", told):
            assert (ROOT / path).exists(), f"{page} names {path}"
            assert not name or f"def {name}" in (ROOT / path).read_text("utf-8"), f"{page} names {path}::{name}"
