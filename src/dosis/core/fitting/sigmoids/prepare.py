"""Makes the machine code ahead of time, so that nobody's first fit waits a minute for it: `python -m` this module."""

import shutil

import numpy as np

from dosis.core.fitting.batch import fit_many
from dosis.core.fitting.fit import fit
from dosis.core.fitting.sigmoids.compiled import FOLDER


def prepare() -> None:
    """Call everything that is compiled once, and clear away what older sources left."""
    x = np.geomspace(0.01, 100.0, 8)
    # Curves that end poorly, so that every kind of start is tried.
    y = np.random.default_rng(1).normal(size=(8, x.size))
    fit_many("logistic5", x, y)
    fit_many("logistic4", x, y).interval("midpoint", method="profile")
    fit("logistic4", x, [1.0, 1.1, 1.2, 2.0, 3.0, 3.9, 4.0, 4.1]).read_back(2.5)
    for other in FOLDER.parent.glob("compiled-*"):
        if other != FOLDER:
            shutil.rmtree(other, ignore_errors=True)


if __name__ == "__main__":
    prepare()
