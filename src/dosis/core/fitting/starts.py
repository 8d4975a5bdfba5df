"""Start values from the data: a grid over the parameters a model is not linear in, the others solved for."""

from collections.abc import Mapping

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.model import Model

FURTHER = 7  # starts kept beside the best


def starts(
    model: Model, x: Array, y: Array, w: Array, fixed: Mapping[str, float], *, constrained: bool = False
) -> list[Array]:
    """Parameter vectors to start from, the best first, each from another part of the grid.

    For each grid point the parameters in which the model is linear follow from linear least squares (variable
    projection, Golub & Pereyra 1973). Shapes: x, y, w (n,); each start (p,). A constrained fit cannot be brought to
    the canonical form afterwards, so it starts there.
    """
    if model.grid is None:
        return []
    grid = dict(model.grid(x, y))
    if constrained:
        grid |= {name: np.concatenate((-grid[name], grid[name])) for name in model.mirrored}
    axes = {name: np.asarray([fixed[name]]) if name in fixed else values for name, values in grid.items()}
    mesh = [axis.ravel() for axis in np.meshgrid(*axes.values(), indexing="ij")]
    count = mesh[0].size
    at: dict[str, object] = {"x": x, **{name: axis[:, None] for name, axis in zip(axes, mesh, strict=True)}}
    free = [name for name in model.linear_in if name not in fixed]
    at |= {name: fixed.get(name, 0.0) for name in model.linear_in}
    offset, derivatives = model.expression.dual(at, free)
    shape = (count, x.size)
    target = np.broadcast_to(y - offset, shape)
    with np.errstate(all="ignore"):
        if free:
            basis = np.stack([np.broadcast_to(0.0 if d is None else d, shape) for d in derivatives], axis=-1)
            weighted = basis * w[:, None]
            normal = np.einsum("cnk,cnl->ckl", weighted, basis)
            size = np.einsum("ckk->ck", normal).max(axis=1, initial=0.0)
            normal += (1e-12 * size + 1e-300)[:, None, None] * np.eye(len(free))
            right = np.einsum("cnk,cn->ck", weighted, target)
            good = np.isfinite(normal).all(axis=(1, 2)) & np.isfinite(right).all(axis=1)
            normal[~good], right[~good] = np.eye(len(free)), 0.0
            solved = np.linalg.solve(normal, right[..., None])[..., 0]
            left = target - np.einsum("cnk,ck->cn", basis, solved)
        else:
            solved, left = np.zeros((count, 0)), target
            good = np.ones(count, dtype=bool)
        sse = np.where(good, (w * left * left).sum(axis=1), np.inf)
    columns = dict(zip(axes, mesh, strict=True))
    columns |= {name: solved[:, i] for i, name in enumerate(free)}
    columns |= {name: np.full(count, value) for name, value in fixed.items()}
    vectors = np.stack([columns[name] for name in model.names], axis=1)
    if constrained and model.canonical:
        form = model.canonical(dict(zip(model.names, vectors.T, strict=True)))
        sse[np.any(np.stack([form[name] for name in model.names], axis=1) != vectors, axis=1)] = np.inf
    if model.ordered and not {"lower", "upper"} & fixed.keys():
        sse[columns["lower"] > columns["upper"]] = np.inf
    order = np.argsort(np.where(np.isfinite(sse), sse, np.inf), kind="stable")
    chosen: list[int] = []
    indices = np.stack(np.unravel_index(np.arange(count), [len(axis) for axis in axes.values()]), axis=1)
    for at_index in order:
        if not np.isfinite(sse[at_index]) or len(chosen) > FURTHER:
            break
        # A neighbor on the grid would lead to the same minimum.
        if all(np.abs(indices[at_index] - indices[other]).max() > 1 for other in chosen):
            chosen.append(int(at_index))
    return [vectors[c] for c in chosen]
