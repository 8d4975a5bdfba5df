"""Curves to measure fitting on: regular ones, and all the kinds that a real plate holds besides."""

import numpy as np

from dosis.core.arrays import Array

SHARES = {
    "regular": 0.40, "noisy": 0.12, "outlying": 0.12, "falling": 0.12, "partial": 0.08, "flat": 0.08, "steep": 0.08,
}  # fmt: skip


def logistic(dose: Array, lower: float, upper: float, middle: float, steep: float) -> Array:
    """As one would write it for a general optimizer."""
    value: Array = lower + (upper - lower) / (1 + (dose / middle) ** steep)
    return value


def made(kind: str, count: int, x: Array, rng: np.random.Generator) -> Array:
    """`count` curves of a kind on doses x (n,): (count, n)."""
    low, high = np.log(x.min()), np.log(x.max())
    middle = np.exp(rng.uniform(low + 0.3 * (high - low), high - 0.3 * (high - low), count))
    slope, noise, top = rng.uniform(0.8, 2.5, count), 0.03, 2.0
    match kind:
        case "noisy":
            noise = 0.25
        case "partial":
            middle = np.exp(rng.uniform(high - 0.3, high + 3, count))
        case "steep":
            slope = rng.uniform(4, 20, count)
        case "flat":
            top = 0.1
    gone = 1 / (1 + (x / middle[:, None]) ** slope[:, None])
    y = 0.1 + (top - 0.1) * (gone if kind == "falling" else 1 - gone) + noise * rng.standard_normal((count, x.size))
    if kind == "outlying":
        y[np.arange(count), rng.integers(0, x.size, count)] += rng.choice([-1, 1], count) * rng.uniform(0.5, 2, count)
    return y


def mixed(count: int, x: Array, rng: np.random.Generator) -> Array:
    """Curves of all kinds, by their shares, shuffled: (count, n)."""
    parts = [made(kind, round(share * count), x, rng) for kind, share in SHARES.items()]
    y = np.concatenate(parts)
    return y[rng.permutation(len(y))]


def wall(count: int = 2000) -> tuple[Array, list[Array], str]:
    """Doses, the responses of each of so many series, and all of it as a table to paste."""
    rng = np.random.default_rng(2000)
    doses = np.geomspace(0.01, 100, 8)
    series, rows = [], []
    for i in range(count):
        y = logistic(doses, 5, 100, 10 ** rng.uniform(-1, 1), 1.2) + rng.normal(0, 3, 8)
        series.append(y)
        rows += [f"Dose\t{x:.5g}\t{v:.4f}\tC{i}" for x, v in zip(doses, y, strict=True)]
    return doses, series, "\n".join(["Name\tDose (mg/L)\tResponse\tSeries", *rows])
