"""What a new run of scans opens with: absorbance of what is transmittance, the rest as it is."""

import re

from dosis.run.layout import Layout
from dosis.run.questions.spectrum.signal import ScanSignalStep

_TRANSMITTED = re.compile(r"transmi|^%? ?T$|^%T", re.IGNORECASE)


def opened_signal(layout: Layout) -> ScanSignalStep:
    """Transmittance is brought to absorbance, in which peaks stand up and amounts add."""
    signal = layout.signal
    if _TRANSMITTED.search(signal.name) or signal.unit == "%T":
        return ScanSignalStep(convert="absorbance")
    return ScanSignalStep()
