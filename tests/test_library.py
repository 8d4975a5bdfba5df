"""The core installs and works alone: with nothing of the server beside it, and every line of docs/library.md."""

import re
import subprocess
import sys
import tomllib
import venv
from pathlib import Path

import pytest

from dosis.core import fit

ROOT = Path(__file__).parent.parent
SITE = next(Path(each) for each in sys.path if each.endswith("site-packages"))
# What the core says it needs, and what these need themselves.
ALONE = re.compile(r"^(numpy|scipy|numba|llvmlite|pint|flexcache|flexparser|platformdirs|typing_extensions)\b.*", re.I)


@pytest.fixture(scope="module")
def alone(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A fresh Python with the core's own packages and the built package only."""
    home = tmp_path_factory.mktemp("alone")
    venv.create(home, with_pip=False, symlinks=True)
    site = home / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages"
    for each in SITE.iterdir():
        if ALONE.match(each.name):
            (site / each.name).symlink_to(each)
    (site / "dosis.pth").write_text(f"{ROOT / 'src'}\n")  # by its own path, under which its loops are compiled already
    return home / "bin" / "python"


def run(python: Path, code: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([python, "-c", code], capture_output=True, text=True, check=False, timeout=300, cwd="/")


def test_the_lines_of_the_library_page_run_with_the_core_alone(alone: Path) -> None:
    page = (ROOT / "docs" / "library.md").read_text("utf-8")
    code = "\n".join(re.findall(r"```python\n(.*?)```", page, re.DOTALL))
    done = run(alone, code)
    assert done.returncode == 0, done.stderr
    assert "ReadBack(estimate=6.207" in done.stdout and "LethalDose(" in done.stdout


def test_without_the_server_the_program_says_what_is_missing(alone: Path) -> None:
    assert run(alone, "import fastapi").returncode != 0
    done = run(alone, "from dosis.main import main; main()")
    assert done.returncode == 1 and "pip install '.[server]'" in done.stderr
    assert run(alone, "from dosis.core import fit; fit('line', [1, 2, 3], [1, 2, 3]).to_frame()").stderr.count(
        "needs pandas"
    )


def test_the_package_has_bounds_and_the_locks_exact_versions() -> None:
    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    wanted = [*project["dependencies"], *project["optional-dependencies"]["server"]]
    assert all("==" not in each and ">=" in each for each in wanted)
    lock = (ROOT / "requirements.lock").read_text("utf-8")
    for each in wanted:
        name = re.split(r"[>=<]", each)[0]
        assert re.search(rf"^{re.escape(name)}==", lock, re.MULTILINE | re.IGNORECASE), name


def test_a_fit_shows_itself_with_its_intervals() -> None:
    line = fit("line", [0, 2, 4, 6, 8, 10, 12], [2.1, 5.0, 9.0, 12.6, 17.3, 21.0, 24.7])
    said = line.summary()
    for each in ("slope", "1.93", "intercept", "RMSE", "7 readings, 5 degrees of freedom"):
        assert each in said, each
    html = line._repr_html_()
    assert html.count("<tr>") == 3 and "1.93" in html and "<i>y = intercept + slope" in html
    row = line.parameter_table()[0]
    assert row["lower"] < row["estimate"] < row["upper"] and row["held"] is False
    frame = line.to_frame()
    assert frame.loc["slope", "estimate"] == line.named["slope"]
    held = fit("line", [0, 1, 2, 3], [0, 1.1, 2, 3.2], fixed={"intercept": 0.0}).summary()
    assert "held" in held


def test_what_is_read_back_is_told_in_the_first_line() -> None:
    line = fit("line", [0, 1, 2, 3, 4], [0, 1.1, 2, 3.2, 3.9])
    assert "ONE sample" in (line.read_back.__doc__ or "").splitlines()[0]
    assert "MANY samples" in (line.read_back_many.__doc__ or "").splitlines()[0]
    one, many = line.read_back([1.0, 2.0]), line.read_back_many([1.0, 2.0], [1, 1])
    assert one.estimate == pytest.approx(line.read_back(1.5, n=2).estimate) and len(many) == 2
    import inspect

    assert len(str(inspect.signature(fit))) < 600  # types by their short names


def test_a_fit_draws_itself() -> None:
    line = fit("line", [1, 2, 3, 4], [0.11, 0.2, 0.31, 0.39])
    figure = line.figure(x="Phosphate / uM", y="A880", title="Pier", width=85, height=64)
    svg = figure._repr_svg_()
    assert 'width="85mm"' in svg and "Phosphate / µM" in svg and "Pier" in svg
    assert figure.file("pdf").startswith(b"%PDF-")
    trace = figure.contents[0].traces[0]
    assert [dot.x for dot in trace.dots] == [1, 2, 3, 4]
    assert [y for _, y in trace.line] == pytest.approx(line.predict([x for x, _ in trace.line]).tolist())
    assert len(trace.band) == len(trace.line) and trace.equation == "*y* = 0.09500 · *x* + 0.01500"
    doses = [0.1, 0.3, 1, 3, 10, 30]
    sigmoid = fit("logistic4", doses, [97, 92, 70, 38, 14, 5]).figure(x="Dose / mg L-1")
    assert sigmoid.contents[0].log and "mg L" in sigmoid.svg()
