"""When a concentration is too little to be read."""

from dosis.core.inference.read_back import Flag, ReadBack


def below(result: ReadBack, lowest: float) -> ReadBack:
    """A concentration between a zero standard and the lowest one above it is below what can be read."""
    if result.estimate is None or result.flag is not None or result.estimate >= lowest:
        return result
    return result._replace(flag=Flag.BELOW_RANGE, reason="below the lowest standard above zero")
