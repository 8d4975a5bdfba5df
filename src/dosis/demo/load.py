"""Loading the demo world into an empty store."""

from uuid import NAMESPACE_URL, UUID, uuid5

from dosis.demo import brine_shrimp, courses, diatom, domoic_acid, lots, relations, scans, screen, season, tide
from dosis.demo.phosphate import bent_run, clean_run
from dosis.intake.methods.apply import apply
from dosis.intake.methods.keep import keep
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.people.rights import Rights
from dosis.run.changes import Rename
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.roles import Role
from dosis.run.trends import Base
from dosis.store import history, methods, reviews, revisions, runs, studies, trends
from dosis.store.database import Cursor, Database
from dosis.store.sessions import Person
from dosis.store.trends import BaseFor
from dosis.store.worked import worked

AUTHOR, REVIEWER = "Ternhaven demo", "Ternhaven review"
STUDY = "Autumn mussel survey"
PLATE = "Domoic acid, plate 3"
GROWTH = "Diatom growth, TP-17"
MORTALITY = "Brine shrimp, TP-17, 48 h"
LOTS = "TP-17, lots C and D beside the reference"
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
SEASON = "Domoic acid through the season"
METHOD = "Domoic acid, plate immunoassay"
ABOUT = (
    "Domoic acid in mussel extracts by a competitive immunoassay on 96 wells: eight standards in duplicate from 20 "
    "µg/L by 2.5, extracts diluted 20-fold in triplicate, two QCs, blanks in column 12. Laid out by well."
)
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
        beside = runs.create(db, _run(study, LOTS, lots.lots_table(), "potency"), AUTHOR)
        history.change(db, beside, 1, str(_key(f"{LOTS} 1")), lots.lots_changes(), AUTHOR)
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
        _season(db, plate)


def _season(db: Cursor, plate: int) -> None:
    """A study of plates by a method, which is kept from the plate of the survey."""
    state, choices = revisions.state(db, plate), runs.choices(db, plate)
    if state is None or choices is None:
        raise RuntimeError("The demo plate is not there.")
    kept = keep(METHOD, runs.readings(db, plate), state.layout, state.method, choices).model_copy(
        update={"about": ABOUT, "source": "ICH M10 (2022), chapter 4, for the checks.", "free": ("limits",)}
    )
    id, number = methods.keep(db, kept, "kept from plate 3", AUTHOR, use=True)
    study, made = studies.create(db, SEASON, AUTHOR), list[int]()
    for n in range(1, season.PLATES + 1):
        title, text = f"Season plate {n}", season.plate(n)
        choices = kept.choices(Choices())
        found = understand(text, choices)
        if found.readings is None or found.layout is None:
            raise RuntimeError(f"The demo table “{title}” is not understood.")
        applied = apply(kept, found.readings, found.layout)
        named = [group for group in applied.layout.groups if group.role is Role.SAMPLE]
        numbers = tuple(f"M-{100 * n + i:04}" for i in range(1, len(named) + 1))
        given = Rename(groups=tuple(group.id for group in named), names=numbers)
        layout, method, _ = changed(found.readings, applied.layout, applied.method, [given])
        outcome = evaluate(found.readings, layout, method)
        new = runs.NewRun(
            study=study, title=title, key=str(_key(title)), source_name="pasted table", source=text.encode(),
            choices=choices, readings=found.readings, worked=worked(layout, method, outcome),
            method=(id, number), noted=f"by the method “{METHOD}”, version {number}",
        )  # fmt: skip
        made.append(runs.create(db, new, AUTHOR))
    for qc in ("QC low", "QC high"):
        base = BaseFor(key=f"answer:{qc}", base=Base(runs=tuple(made[: season.GOOD])))
        trends.set_base(db, id, METHOD, base, AUTHOR)
    _reviewed(db, made)


def _reviewed(db: Cursor, made: list[int]) -> None:
    """The third plate of the season is signed; the eleventh waits for its review, with a remark on its low QC."""
    signed, waiting = made[2], made[10]
    analyst, reviewer = (Person(name=name, rights=Rights()) for name in (AUTHOR, REVIEWER))
    for run in (signed, waiting):
        reviews.move(db, run, "hand in", 1, "", analyst)
    reviews.move(db, signed, "review", 1, "", reviewer)
    found = reviews.of_run(db, signed)
    state = revisions.state(db, waiting)
    if found is None or state is None:
        raise RuntimeError("The demo plates are not there.")
    reviews.sign(db, signed, 1, found.digest, "approval", reviewer)
    low = next(group for group in state.layout.groups if group.name == "QC low")
    text = "It has come up since plate 8, and the chart says so. How old is the stock of this QC?"
    reviews.remark(db, waiting, reviews.NewRemark(place=f"answer:{low.id}", named=low.name, text=text), reviewer)


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
