"""`./dosis bench`: how fast Dosis is, against general-purpose references in the same run."""

import sys
import tempfile
from pathlib import Path

from bench.campaign import campaign
from bench.computing import (
    agreement,
    counts,
    evaluation,
    intervals,
    many_curves,
    memory,
    one_curve,
    plate_evaluation,
    wall_evaluation,
)
from bench.figures import Figure, show
from bench.kinetics import courses_computed, courses_shown, growth
from bench.long_files import large_files
from bench.pages import (
    bringing_in,
    first_load,
    interaction,
    large_runs,
    plate_interaction,
    printing,
    screening_interaction,
    second_start,
    wall_interaction,
    wall_scrolling,
)
from bench.people import people
from bench.signals import peaks, window


def main() -> None:
    """Measure and print every figure."""
    figures: list[Figure] = [
        evaluation(),
        plate_evaluation(),
        wall_evaluation(),
        one_curve(),
        *many_curves(),
        *intervals(),
        *counts(),
        memory(),
        *agreement(),
        growth(),
        *courses_computed(),
        peaks(),
        window(),
    ]
    figures.append(first_load())
    with tempfile.TemporaryDirectory(prefix="dosis-bench-") as folder:
        home = Path(folder)
        figures.append(second_start(home))
        figures += interaction(home)
        figures += plate_interaction(home)
        figures.append(screening_interaction(home))
        figures.append(wall_interaction(home))
        figures.append(wall_scrolling(home))
        figures += bringing_in(home)
        figures += large_runs(home)
        figures += courses_shown(home)
        figures += large_files(home)
        figures += printing(home)
    show(figures)


# Workers of a batch are started anew from this file, and are not to measure again.
if __name__ == "__main__":
    if sys.argv[1:2] == ["--campaign"]:
        show(campaign(*map(int, sys.argv[2:3])))
    elif sys.argv[1:2] == ["--people"]:
        show(people(*map(int, sys.argv[2:3])))
    else:
        main()
