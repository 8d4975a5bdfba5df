"""Loading the demo world into an empty store."""

from uuid import NAMESPACE_URL, UUID, uuid5

from dosis.demo import brine_shrimp, courses, diatom, domoic_acid, relations, scans, screen, tide
from dosis.demo.phosphate import bent_run, clean_run
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.questions.registry import QuestionId, question_of
from dosis.store import history, runs, studies
from dosis.store.database import Database
from dosis.store.worked import worked

AUTHOR = "Ternhaven demo"
STUDY = "Autumn mussel survey"
PLATE = "Domoic acid, plate 3"
GROWTH = "Diatom growth, TP-17"
MORTALITY = "Brine shrimp, TP-17, 48 h"
SCREEN = "Extract screen, plate 1"
SALINITY = "Salinity of the moorings"
RATE = "Phosphatase on temperature"
COURSES = (
    ("Phosphatase at six levels", courses.phosphatase_table, courses.phosphatase_changes),
    ("Phosphatase plate, eight temperatures", courses.temperature_plate, courses.temperature_changes),
    ("Diatom growth, three flasks", courses.growth_table, list),
    ("Phycoerythrin fading", courses.fading_table, courses.fading_changes),
)
TIDE = "Turbidity probe over a tide"
SCANS = "Phycoerythrin fading, scans"
RUNS = (("Phosphate, marsh transect", bent_run), ("Phosphate, pier and outfall", clean_run))


def load(database: Database) -> None:
    """Make the demo study with its runs, once; what a person has done since stays."""
    with database.transaction() as db:
        if any(study.name == STUDY for study in studies.list_all(db)):
            return
        study = studies.create(db, STUDY, AUTHOR)
        for title, table in RUNS:
            runs.create(db, _run(study, title, table()), AUTHOR)
        plate = runs.create(db, _run(study, PLATE, domoic_acid.plate()), AUTHOR)
        for number, change in enumerate(domoic_acid.changes(), start=1):
            history.change(db, plate, number, str(_key(f"{PLATE} {number}")), [change], AUTHOR)
        growth = runs.create(db, _run(study, GROWTH, diatom.plate(), "dose"), AUTHOR)
        history.change(db, growth, 1, str(_key(f"{GROWTH} 1")), diatom.changes(), AUTHOR)
        runs.create(db, _run(study, MORTALITY, brine_shrimp.table(), "mortality"), AUTHOR)
        many = runs.create(db, _run(study, SCREEN, screen.plate(), "dose"), AUTHOR)
        history.change(db, many, 1, str(_key(f"{SCREEN} 1")), screen.changes(), AUTHOR)
        for title, text, steps in (
            (SALINITY, relations.salinity_table(), relations.salinity_changes()),
            (RATE, relations.rate_table(), relations.rate_changes()),
        ):
            made = runs.create(db, _run(study, title, text, "relation"), AUTHOR)
            history.change(db, made, 1, str(_key(f"{title} 1")), steps, AUTHOR)
        for title, table, changes in COURSES:
            made = runs.create(db, _run(study, title, table(), "rate"), AUTHOR)
            if steps := changes():
                history.change(db, made, 1, str(_key(f"{title} 1")), steps, AUTHOR)
        made = runs.create(db, _run(study, SCANS, scans.fading_scans(), "spectrum"), AUTHOR)
        history.change(db, made, 1, str(_key(f"{SCANS} 1")), scans.scans_changes(), AUTHOR)
        made = runs.create(db, _run(study, TIDE, tide.tide(), "recording"), AUTHOR)
        history.change(db, made, 1, str(_key(f"{TIDE} 1")), tide.tide_changes(), AUTHOR)


def _run(study: int, title: str, text: str, question: QuestionId = "concentration") -> runs.NewRun:
    intake = understand(text)
    if intake.readings and question_of(question).of_curves != (intake.readings.axis is not None):
        intake = understand(text, Choices(question=question))
    if intake.readings is None or intake.layout is None:
        raise RuntimeError(f"The demo table “{title}” is not understood.")
    layout, method = opened(intake.readings, intake.layout, question)
    return runs.NewRun(
        study=study, title=title, key=str(_key(title)), source_name="pasted table",
        source=text.encode(), choices=Choices(), readings=intake.readings,
        worked=worked(layout, method, evaluate(intake.readings, layout, method)),
    )  # fmt: skip


def _key(name: str) -> UUID:
    return uuid5(NAMESPACE_URL, f"dosis demo {name}")
