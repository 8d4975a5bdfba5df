"""The situations in which intervals are tried, by question."""

from tests.simulation.scenarios import counts, doses, library, standards

BY_QUESTION = {
    "Concentrations and additions": standards.SCENARIOS,
    "Effect doses": doses.SCENARIOS,
    "Lethal doses": counts.SCENARIOS,
    "Through the library": library.SCENARIOS,
}
EVERY = [scenario for scenarios in BY_QUESTION.values() for scenario in scenarios]
