"""Do the intervals of answers cover 95 %, from raw wells, when nobody touches anything? Slow, run by CI too.

Here a part of the runs is made, and every quantity may miss what is asked of it by chance; with DOSIS_RUNS=2000 all
are. What they come to stands in docs/coverage.md, which `python -m tests.simulation` makes.
"""

import os

import pytest

from tests.simulation.scenario import Scenario, said, tallied
from tests.simulation.scenarios import EVERY

RUNS = int(os.environ.get("DOSIS_RUNS", "0"))
PART = 20  # of a scenario's runs one in so many is made
SURE = 2.6  # standard errors of a share by which one in a hundred simulations may miss by chance


@pytest.mark.slow
@pytest.mark.parametrize("scenario", EVERY, ids=lambda scenario: scenario.id)
def test_intervals_cover_what_they_say(scenario: Scenario) -> None:
    tallies = tallied(scenario, min(RUNS, scenario.runs) if RUNS else scenario.runs // PART)
    for tally in tallies.values():
        least, most = ((end * (1 - end) / tally.answered) ** 0.5 for end in (scenario.lowest, scenario.highest))
        assert scenario.lowest - SURE * least <= tally.share <= scenario.highest + SURE * most, said(tallies)
        assert tally.silent <= scenario.silent * (tally.answered + tally.silent), said(tallies)
