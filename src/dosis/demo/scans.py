"""Phycoerythrin under the lamp: a scan every ten minutes, while what it turns into comes up on the left."""

import numpy as np

from dosis.run.changes import Change, SetStep
from dosis.run.questions.spectrum.at import AtStep, Ratio

NM = np.arange(400, 801, 1.0)
MINUTES = (0, 10, 20, 30, 40, 50, 60)
LIGHT = 0.021  # share that fades in a minute
BANDS = ((498.0, 21.0, 0.52), (545.0, 17.0, 0.46), (566.0, 14.0, 0.98))  # nm, width in nm, absorbance
PRODUCT = (428.0, 32.0, 0.34)


def fading_scans() -> str:
    """A column of wavelengths and one for each time."""
    rng = np.random.default_rng(565)
    whole = sum(height * np.exp(-(((NM - at) / width) ** 2) / 2) for at, width, height in BANDS)
    at, width, height = PRODUCT
    product = height * np.exp(-(((NM - at) / width) ** 2) / 2)
    left = [np.exp(-LIGHT * t) for t in MINUTES]
    scans = [share * whole + (1 - share) * product + rng.normal(0, 0.0015, NM.size) for share in left]
    rows = ["\t".join([f"{nm:.0f}", *(f"{scan[i]:.4f}" for scan in scans)]) for i, nm in enumerate(NM)]
    return "\n".join(["Absorbance (AU)", "\t".join(["Wavelength (nm)", *(f"{t} min" for t in MINUTES)]), *rows])


def scans_changes() -> list[Change]:
    """The ratio of its bands, which tells whether the protein is whole."""
    return [SetStep(kind="set_step", step=AtStep(places=(498.0,), ratios=(Ratio(over=566.0, under=498.0),)))]
