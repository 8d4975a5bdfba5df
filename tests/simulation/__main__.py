"""Writes docs/coverage.md: what the intervals of Dosis cover, simulated. `python -m tests.simulation`, for an hour.

With ids of scenarios it prints theirs instead: `python -m tests.simulation line dose 500`, of 500 runs each.
"""

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from tests.simulation.scenario import HIGHEST, LOWEST, RUNS, Scenario, Tally, said, tallied
from tests.simulation.scenarios import BY_QUESTION, EVERY

PAGE = Path(__file__).parents[2] / "docs" / "coverage.md"
HEAD = f"""# What intervals cover

Every answer of Dosis comes with an interval that is to hold the truth 95 times in 100. Here it is tried: wells are
drawn by chance from a known truth, read with six digits, and worked through from the raw readings to the answer **on
default settings**, {RUNS:,} times for each row (ratios of curves 1,000 times); where no question serves a quantity yet,
by the library. An interval with an open end counts on the side it has. *Silent* are runs whose answer is no number,
but a bound or a reason.

Asked for are {100 * LOWEST:g} to {100 * HIGHEST:g} %; the standard error of a share of {RUNS:,} is half a percent. A
row that may miss that says why. Made by `python -m tests.simulation`; every test run asks for the same.

"""


def _one(job: tuple[str, int | None]) -> tuple[str, dict[str, Tally]]:
    scenario = next(each for each in EVERY if each.id == job[0])
    return scenario.id, tallied(scenario, job[1])


def _rows(scenario: Scenario, tallies: dict[str, Tally]) -> list[str]:
    rows = []
    for i, (what, tally) in enumerate(tallies.items()):
        first = scenario.what if i == 0 else ""
        shares = f"{100 * tally.share:.1f} ± {100 * tally.error:.1f}"
        rows.append(f"| {first} | {what.replace('_', ' ')} | {shares} | {tally.open} | {tally.silent} |")
    if scenario.because:
        rows.append(f"| | *{scenario.because}* | | | |")
    return rows


def main() -> None:
    """Write the page, or print what was asked for."""
    numbers = [int(each) for each in sys.argv[1:] if each.isdigit()]
    asked = [each for each in sys.argv[1:] if not each.isdigit()]
    chosen = [each for each in EVERY if not asked or any(each.id.startswith(id) for id in asked)]
    with ProcessPoolExecutor(2) as pool:
        found: dict[str, dict[str, Tally]] = {}
        for id, tallies in pool.map(_one, [(each.id, numbers[0] if numbers else None) for each in chosen]):
            found[id] = tallies
            print(f"{id:24} {said(tallies)}", flush=True)
    if asked:
        return
    page = HEAD
    for question, scenarios in BY_QUESTION.items():
        page += f"## {question}\n\n| wells | of | covered (%) | open | silent |\n|---|---|---|---|---|\n"
        page += "\n".join(row for each in scenarios for row in _rows(each, found[each.id])) + "\n\n"
    PAGE.write_text(page.rstrip() + "\n", "utf-8")


if __name__ == "__main__":
    main()
