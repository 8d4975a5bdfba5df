"""The methods that ship with Dosis, in general terms to begin from; each with what it is for and its source."""

from dosis.intake.methods.kept import Expected, KeptMethod
from dosis.run.method import default_method
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.questions.dose.checks import DoseChecksStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.mortality.checks import MortalityChecksStep
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.questions.rate.against import AgainstStep
from dosis.run.questions.rate.course import CourseStep
from dosis.run.questions.registry import QuestionId
from dosis.run.questions.spectrum.change import ChangeStep
from dosis.run.standards.checks import ChecksStep
from dosis.run.standards.curve import CurveStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.step import Step

PREPARING = ("signal", "blank", "replicates", "dilution", "normalize", "course_signal", "course_blank", "scan_signal")


def _method(
    name: str, question: QuestionId, *steps: Step, about: str, source: str, expected: Expected,
    free: tuple[str, ...] = (),
) -> KeptMethod:  # fmt: skip
    method = default_method(question)
    for step in steps:
        method = method.with_step(step)
    kinds = {step.kind for step in method.steps}
    return KeptMethod(
        name=name, question=question, steps=method.steps, figure=method.figure, about=about, source=source,
        expected=expected, free=tuple(kind for kind in (*PREPARING, *free) if kind in kinds),
    )  # fmt: skip


SHIPPED: tuple[KeptMethod, ...] = (
    _method(
        "Standard line with a check of linearity", "concentration",
        CurveStep(model="line", weights="auto"), LimitsStep(), ChecksStep(),
        about="Standards at five levels or more, at least in duplicate, blanks, samples and a QC. A straight line "
        "is fitted with weights where the spread rises with the level; lack of fit against the replicates says "
        "whether it is straight. LOD and LOQ are 3.3 and 10 σ/S. Standards have to be found within 15 %, the "
        "lowest within 20 %.",
        source="ICH Q2(R2) (2023), linearity and detection limit; ICH M10 (2022), 3.2.5.2, recovery of standards.",
        expected=Expected(levels=5, blanks=1), free=("limits",),
    ),
    _method(
        "Immunoassay, four-parameter curve", "concentration",
        CurveStep(model="logistic4", weights="auto"), ReplicatesStep(cv_limit=0.20),
        ChecksStep(standard_recovery=0.20, lowest_recovery=0.25, qc_recovery=0.20),
        about="A ligand-binding assay on a plate: standards at six levels or more, at least in duplicate, QCs and "
        "samples. A four-parameter logistic curve is fitted, weighted where the spread rises along it. Standards "
        "have to be found within 20 %, those at the ends of the range within 25 %, QCs within 20 %; replicates "
        "agree within a CV of 20 %. Standards on a plateau anchor the curve and are not judged.",
        source="ICH M10 (2022), chapter 4 (ligand binding assays): 4.2.4.2 calibration curve, 4.3.2 acceptance of "
        "a run.",
        expected=Expected(levels=6, qcs=2), free=("limits",),
    ),
    _method(
        "Viability, IC50", "dose",
        DoseCurveStep(model="logistic4"), EffectsStep(levels=(50.0,)), DoseChecksStep(z_prime=0.5),
        about="Cells or organisms at rising doses with vehicle and, where there is one, full effect. Responses are "
        "taken as percent of the vehicle and a four-parameter logistic curve is fitted to each series; the IC50 is "
        "given relative to the plateaus and as absolute 50 %. Z′ of at least 0.5 tells the two ends of the assay "
        "apart.",
        source="Sebaugh (2011), Pharmaceutical Statistics 10: 128–134 (relative and absolute IC50); Zhang, Chung & "
        "Oldenburg (1999), J. Biomolecular Screening 4: 67–73 (Z′).",
        expected=Expected(levels=5, blanks=2), free=("compare",),
    ),
    _method(
        "Acute toxicity, LC50 after 48 h", "mortality",
        QuantalStep(link="probit", background="estimated"), LethalStep(levels=(50.0, 10.0)),
        MortalityChecksStep(control=0.10),
        about="Animals exposed to rising concentrations, dead or immobile after 48 h counted of those exposed, "
        "with a control. A probit line on log concentration gives the LC50 with Fieller's interval; the background "
        "is estimated with it. Not more than 10 % of the control may be affected.",
        source="OECD Test Guideline 202 (2004), validity of the test; Finney (1971), Probit Analysis, chapters 3, "
        "4 and 7.",
        expected=Expected(levels=5), free=("compare_lethal",),
    ),
    _method(
        "Initial rates to a saturation curve", "rate",
        CourseStep(by="straight", propose=True), AgainstStep(model="hyperbola"),
        about="Product or substrate followed in time at several levels of the substrate. The initial rate of each "
        "course is the slope of its straight beginning, found by itself; rates against the level give Km and Vmax "
        "by least squares on the rates as they are, never on a straightened form.",
        source="Cornish-Bowden (2012), Fundamentals of Enzyme Kinetics, 4th ed., chapters 2 and 15.",
        expected=Expected(along="time"), free=("scale", "compare_rates"),
    ),
    _method(
        "Peak over time", "spectrum",
        ChangeStep(of="peak", order="best"),
        about="Scans of one sample at several times. The highest point is followed over time, the order of the "
        "change is chosen by AICc among zero order, first order to zero and first order to a plateau, and the rate "
        "and half-life are given with their intervals.",
        source="Burnham & Anderson (2002), Model Selection and Multimodel Inference (AICc); common practice for "
        "the rest.",
        expected=Expected(along="wave"), free=("correct", "smooth", "combine", "peaks", "mixture", "at"),
    ),
)  # fmt: skip
