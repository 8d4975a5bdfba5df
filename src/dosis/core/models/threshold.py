"""A model without effect up to a threshold, and with a decline beyond it."""

import numpy as np

from dosis.core.models.model import Model, Parameter

THRESHOLD_DECLINE = Model(
    id="threshold_decline",
    name="Threshold, then decline",
    shape="threshold",
    equation="y = control·exp(−rate·max(x − threshold, 0))",
    parameters=(
        Parameter("control", "response without effect", "y"),
        Parameter("threshold", "no-effect concentration (NEC)", "x", positive=True),
        Parameter("rate", "share lost per unit of dose beyond the threshold", "1/x", positive=True),
    ),
    linear_in=("control",),
    kinked="threshold",
    positive_x=True,
    roots=lambda y, p: np.where(y / p[0] < 1, p[1] - np.log(y / p[0]) / p[2], np.nan)[:, None],
    solved="threshold − ln(y ÷ control) ÷ rate",
    source="Pires, Branco, Picado & Mendonça (2002), Environmetrics 13, 15; OECD Series on Testing and Assessment 54",
    example=((1.0, 0.25, 3.0), (0.02, 1.5)),
)
