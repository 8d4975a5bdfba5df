"""Many files worked by one method, spread over processes or machines: the results as they come, each exactly once."""

from dosis.batches.engine import Cluster
from dosis.batches.spread import batch
from dosis.batches.work import made_of
from dosis.store.batches import Made

__all__ = ["Cluster", "Made", "batch", "made_of"]
