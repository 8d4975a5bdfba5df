"""Do the intervals of answers cover 95 %, from raw wells, when nobody touches anything? At 2,000 runs each; slow.

What is measured stands in docs/coverage.md, which `python -m tests.simulation` makes.
"""

import pytest

from tests.simulation.scenario import Scenario, said, tallied
from tests.simulation.scenarios import EVERY

SURE = 2.0  # standard errors of a share of 2,000 by which a simulation may miss by chance


@pytest.mark.slow
@pytest.mark.parametrize("scenario", EVERY, ids=lambda scenario: scenario.id)
def test_intervals_cover_what_they_say(scenario: Scenario) -> None:
    tallies = tallied(scenario)
    off = {
        what: tally
        for what, tally in tallies.items()
        if not scenario.lowest - SURE * tally.error <= tally.share <= scenario.highest + SURE * tally.error
    }
    assert not off, said(off)
    assert all(tally.silent <= scenario.silent * scenario.runs for tally in tallies.values()), said(tallies)
