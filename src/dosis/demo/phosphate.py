"""Phosphate in estuary water by molybdenum blue, read at 880 nm: two runs as pasted tables."""

import numpy as np

SLOPE = 0.0342  # absorbance of 1 µM in the cuvette
BLANK = 0.0200
NOISE = 0.0015
STANDARDS = (0.5, 1.0, 2.5, 5.0, 10.0, 20.0)
HEADROOM = 1.1  # absorbance above the last straight standard at which the bending response levels off


def clean_run() -> str:
    """A well-behaved day: six standards in duplicate, samples from the pier and the outfall, two QCs."""
    rng = np.random.default_rng(880_1)
    samples = (
        ("Pier N", 3.62, 5), ("Pier S", 6.14, 5), ("Outfall", 17.4, 10), ("Mussel line 1", 4.41, 2),
        ("Mussel line 2", 2.95, 2), ("Mussel line 3", 7.88, 2), ("Beacon", 1.52, 1), ("Ferry steps", 9.3, 5),
    )  # fmt: skip

    def read(level: float) -> list[float]:
        return list(BLANK + SLOPE * level + rng.normal(0, NOISE, 2))

    rows: list[tuple[str, ...]] = [("Sample", "Phosphate", "A880 rep 1", "A880 rep 2", "Dilution", "Note")]
    rows += [_row(f"Blank {i}", "0", read(0)) for i in (1, 2)]
    rows += [_row(f"Std {i}", f"{level:g} µM", read(level)) for i, level in enumerate(STANDARDS, start=1)]
    rows += [_row("QC low", "2 µM", read(2.0)), _row("QC high", "15 µM", read(15.0))]
    rows += [_row(name, "", read(level), f"× {factor}" if factor > 1 else "") for name, level, factor in samples]
    return _table(rows)


def bent_run() -> str:
    """An honest mess: the two top standards bend, one replicate is out, one cell is over, one sample above the top."""
    rng = np.random.default_rng(880_2)
    standards = (1.0, 2.5, 5.0, 10.0, 20.0, 40.0, 60.0)

    def read(level: float) -> list[float]:
        straight, knee = SLOPE * level, SLOPE * 20
        signal = straight if level <= 20 else knee + HEADROOM * (1 - np.exp((knee - straight) / HEADROOM))
        return list(BLANK + signal + rng.normal(0, 1.3 * NOISE, 3))

    rows: list[tuple[str, ...]] = [
        ("Sample", "Phosphate", "A880 rep 1", "A880 rep 2", "A880 rep 3", "Dilution", "Note")
    ]
    rows += [_row(f"Blank {i}", "0", read(0)) for i in (1, 2)]
    rows += [_row(f"Std {i}", f"{level:g} µM", read(level)) for i, level in enumerate(standards, start=1)]
    rows += [_row("QC low", "4 µM", read(4.0)), _row("QC high", "16 µM", read(16.0))]
    creek = read(8.2)
    creek[1] += 0.081  # a bubble in the light path
    marsh = [f"{value:.3f}" for value in read(13.1)]
    marsh[0] = "OVER"
    lost = [f"{value:.3f}" for value in read(5.6)]
    lost[1] = ""
    rows += [
        _row("Creek mouth", "", creek, "× 2", "bubble?"),
        _row("Marsh 1", "", read(3.3), "× 2"),
        ("Marsh 2", "", *marsh, "× 2", "recheck"),
        _row("Marsh 3", "", read(6.9), "× 2"),
        _row("Sluice", "", read(95.0), "× 10", "very blue"),
        ("Oyster beds", "", *lost, "× 2", "one cuvette lost"),
        _row("Field drain", "", read(17.8), "× 5"),
    ]
    return _table(rows)


def _row(name: str, level: str, readings: list[float], dilution: str = "", note: str = "") -> tuple[str, ...]:
    cells = [f"{value:.3f}" for value in readings]
    return (name, level, *cells, dilution, note)


def _table(rows: list[tuple[str, ...]]) -> str:
    return "".join("\t".join(row) + "\n" for row in rows)
