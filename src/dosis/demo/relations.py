"""Two relations of the demo world, invented: salinity off a conductivity table, and a rate with an optimum."""

from dosis.run.changes import Change, SetStep
from dosis.run.questions.relation.curve import RelationCurveStep
from dosis.run.questions.relation.predict import PredictStep

SALINITY = (
    (2, 1.2), (5, 3.2), (8, 5.3), (12, 8.2), (16, 11.3), (20, 14.4), (25, 18.4), (30, 22.6), (35, 26.9), (40, 31.3),
    (45, 35.8), (50, 40.4),
)  # fmt: skip
RATES = (
    (5, (0.5, 0.3, 0.6)), (10, (2.4, 2.6, 2.3)), (15, (4.5, 4.5, 4.9)), (20, (7.8, 7.5, 7.1)), (25, (9.9, 10.5, 10.1)),
    (30, (11.6, 12.1, 11.8)), (35, (12.3, 12.4, 12.3)), (40, (10.1, 9.9, 9.8)), (44, (4.5, 4.6, 4.0)),
)  # fmt: skip


def salinity_table() -> str:
    """The tide gauge's table, as it hangs on the wall."""
    rows = "\n".join(f"{conductivity}\t{salinity}" for conductivity, salinity in SALINITY)
    return f"Conductivity (mS/cm)\tSalinity (psu)\n{rows}\n"


def salinity_changes() -> list[Change]:
    """Read off it at the four moorings."""
    at = PredictStep(at_x=(18.4, 27.9, 33.1, 41.6))
    return [SetStep(step=RelationCurveStep(model="table")), SetStep(step=at)]


def rate_table() -> str:
    """Phosphatase of mussel gland on temperature, three assays each."""
    rows = "\n".join("\t".join(map(str, (temperature, *rates))) for temperature, rates in RATES)
    return f"Temperature (°C)\tRate 1 (U/g)\tRate 2 (U/g)\tRate 3 (U/g)\n{rows}\n"


def rate_changes() -> list[Change]:
    """An optimum curve through them, and the rate at the temperature of the bay."""
    return [SetStep(step=RelationCurveStep(model="optimum")), SetStep(step=PredictStep(at_x=(12.0, 18.0)))]
