"""Standards and solutions: what a level is when it is weighed or diluted, and the volumes to pipette for it.

All quantities are in the units the caller keeps; `units.convert` brings them together first.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass


def serial_dilution(top: float, factor: float, count: int, *, zero_at_end: bool = False) -> list[float]:
    """top, top/factor, top/factor² …, `count` levels; and a zero after them where asked for.

    Raises
    ------
    ValueError : for a top not above zero, a factor not above 1, or a count below 1.
    """
    if not (top > 0 and math.isfinite(top)):
        raise ValueError(f"The top of a dilution series must be above zero; here it is {top:g}.")
    if not factor > 1:
        raise ValueError(f"The dilution factor must be above 1; here it is {factor:g}.")
    if count < 1:
        raise ValueError(f"A dilution series has at least 1 level; here {count} are asked for.")
    levels = [float(f"{top / factor**step:.15g}") for step in range(count)]
    return [*levels, 0.0] if zero_at_end else levels


@dataclass(frozen=True, slots=True)
class Prepared:
    """A concentration that was worked out, and the working in one line."""

    value: float
    working: str


def by_weight(mass: float, volume: float, *, purity: float = 1.0) -> Prepared:
    """Mass concentration: mass·purity/volume.

    Raises
    ------
    ValueError : for a mass or volume not above zero, or a purity outside 0 to 1.
    """
    _positive(mass=mass, volume=volume)
    _share(purity)
    value = mass * purity / volume
    return Prepared(value, f"{mass:g} × {purity:g} ÷ {volume:g} = {value:.6g}")


def molar(mass: float, molar_mass: float, volume: float, *, purity: float = 1.0) -> Prepared:
    """Amount concentration: mass·purity/(molar mass·volume); grams, grams per mole and liters give moles per liter.

    Raises
    ------
    ValueError : for a quantity not above zero, or a purity outside 0 to 1.
    """
    _positive(mass=mass, molar_mass=molar_mass, volume=volume)
    _share(purity)
    value = mass * purity / (molar_mass * volume)
    return Prepared(value, f"{mass:g} × {purity:g} ÷ ({molar_mass:g} × {volume:g}) = {value:.6g}")


def from_stock(stock: float, volume: float, final_volume: float) -> Prepared:
    """C2 = C1·V1/V2: the concentration after a volume of stock was made up to the final volume.

    Raises
    ------
    ValueError : for a quantity below zero, or more stock than the final volume.
    """
    _positive(final_volume=final_volume)
    if stock < 0 or volume < 0 or volume > final_volume:
        raise ValueError(f"{volume:g} of stock at {stock:g} cannot be made up to {final_volume:g}.")
    value = stock * volume / final_volume
    return Prepared(value, f"{stock:g} × {volume:g} ÷ {final_volume:g} = {value:.6g}")


def molar_to_mass(concentration: float, molar_mass: float) -> float:
    """mol/L to g/L (or µmol/L to µg/L …) by the molar mass in g/mol."""
    _positive(molar_mass=molar_mass)
    return concentration * molar_mass


def mass_to_molar(concentration: float, molar_mass: float) -> float:
    """g/L to mol/L by the molar mass in g/mol."""
    _positive(molar_mass=molar_mass)
    return concentration / molar_mass


@dataclass(frozen=True, slots=True)
class Pipetting:
    """One mixture: `volume` taken from `source` (the stock, or the level made before) and `diluent`, to make `level`.

    helper : an intermediate dilution that is not a level itself, made because less than the smallest volume would be
        needed from the stock.
    """

    level: float
    source: float
    volume: float
    diluent: float
    helper: bool = False


def plan(
    stock: float, levels: Sequence[float], final_volume: float, *, smallest: float = 0.0, mixing: float = 100.0
) -> list[Pipetting]:
    """Volumes for every level, each from the stock, with intermediate dilutions where the pipette needs them.

    Parameters
    ----------
    stock : its concentration; levels : those wanted, in any order, in the same unit; final_volume : of every mixture;
    smallest : volume the pipette can still deliver; mixing : factor of an intermediate dilution, at most.

    Returns
    -------
    Mixtures in the order in which they can be made, every source before what needs it.

    Raises
    ------
    ValueError : for a level above the stock or below zero, or a smallest volume that no dilution can avoid.
    """
    _positive(stock=stock, final_volume=final_volume)
    for level in levels:
        if level < 0 or level > stock:
            raise ValueError(f"{level:g} cannot be made from a stock of {stock:g}.")
    if smallest * 2 > final_volume or not mixing > 1:
        raise ValueError(
            f"With at least {smallest:g} a step, a final volume of {final_volume:g} leaves nothing to mix."
        )
    made: list[Pipetting] = []
    sources = [stock]
    for level in sorted(set(levels), reverse=True):
        if level == 0:
            made.append(Pipetting(0.0, stock, 0.0, final_volume))
            continue
        source = _source(sources, level, final_volume, smallest)
        while source is None:
            weakest = min(sources)
            factor = min(mixing, final_volume / smallest)
            between = weakest / factor
            made.append(Pipetting(between, weakest, final_volume / factor, final_volume * (1 - 1 / factor), True))
            sources.append(between)
            source = _source(sources, level, final_volume, smallest)
        volume = final_volume * level / source
        made.append(Pipetting(level, source, volume, final_volume - volume))
    return made


def _source(sources: Sequence[float], level: float, final_volume: float, smallest: float) -> float | None:
    """The strongest source from which the volume can still be pipetted."""
    fit = [source for source in sources if source >= level and final_volume * level / source >= smallest * (1 - 1e-12)]
    return max(fit, default=None)


def _positive(**quantities: float) -> None:
    for name, value in quantities.items():
        if not (value > 0 and math.isfinite(value)):
            raise ValueError(f"The {name.replace('_', ' ')} must be above zero; here it is {value:g}.")


def _share(purity: float) -> None:
    if not 0 < purity <= 1:
        raise ValueError(f"The purity is a share above 0 and up to 1; here it is {purity:g}.")
