"""Start values for many curves at once: one grid for all, the linear parameters solved for every curve by products."""

from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.model import Model


def best_starts(model: Model, x: Array, y: Array, w: Array, count: int) -> list[Array]:
    """`count` start vectors for every curve, the best first: each (curves, p).

    x : (n,) distinct; y, w : (curves, n), w zero where there is no reading. For each grid point the linear parameters
    follow from the normal equations of all curves, which are two matrix products (variable projection).
    """
    if model.linear:
        return [np.zeros((len(y), len(model.names)))]
    assert model.grid is not None
    typical = y.mean(axis=0) - y.mean(axis=0).min()
    grid = dict(model.grid(x, typical / (typical.max() or 1.0)))
    units = {parameter.name: parameter.unit for parameter in model.parameters}
    # Where the grid itself is in units of y (growth), every curve is first brought to a span of one.
    by_span = any(units[name].startswith("y") for name in grid)
    size = np.ptp(np.where(w > 0, y, y.mean(axis=1, keepdims=True)), axis=1) if by_span else np.ones(len(y))
    size = np.where(size > 0, size, 1.0)
    mesh = [axis.ravel() for axis in np.meshgrid(*grid.values(), indexing="ij")]
    points, k = mesh[0].size, len(model.linear_in)
    at: dict[str, Any] = {"x": x, **{name: axis[:, None] for name, axis in zip(grid, mesh, strict=True)}}
    at |= dict.fromkeys(model.linear_in, 0.0)
    offset, derivatives = model.expression.dual(at, model.linear_in)
    shape = (points, x.size)
    offset = np.broadcast_to(offset, shape)
    basis = (
        np.stack([np.broadcast_to(0.0 if d is None else d, shape) for d in derivatives]) if k else np.zeros((0, *shape))
    )
    usable = np.isfinite(basis).all(axis=(0, 2)) & np.isfinite(offset).all(axis=1)
    basis, offset = np.where(usable[:, None], basis, 0.0), np.where(usable[:, None], offset, 0.0)
    scaled = y / size[:, None]
    with np.errstate(all="ignore"):
        total = (w * scaled * scaled).sum(axis=1)[:, None] - 2 * (w * scaled) @ offset.T + w @ np.square(offset).T
        normal = np.stack([[w @ (basis[a] * basis[b]).T for b in range(k)] for a in range(k)]) if k else None
        right = [(w * scaled) @ basis[a].T - w @ (basis[a] * offset).T for a in range(k)]
        if normal is None:
            solved, sse = np.zeros((0, *total.shape)), total
        else:
            solved = _solve(normal, right)
            sse = total - sum(solved[a] * right[a] for a in range(k))
    sse = np.where(usable & np.isfinite(sse), sse, np.inf)
    return _pick(model, list(grid), mesh, [len(v) for v in grid.values()], solved, sse, size, count)


def _solve(normal: Array, right: list[Array]) -> Array:
    """Solutions of all the small systems: one or two unknowns in closed form, more by elimination."""
    k = len(right)
    ridge = 1e-12
    if k == 1:
        return np.stack([right[0] / (normal[0, 0] * (1 + ridge) + 1e-300)])
    if k == 2:
        a, b, d = normal[0, 0] * (1 + ridge), normal[0, 1], normal[1, 1] * (1 + ridge)
        determinant = a * d - b * b + 1e-300
        return np.stack([(d * right[0] - b * right[1]) / determinant, (a * right[1] - b * right[0]) / determinant])
    matrix = np.moveaxis(normal, (0, 1), (-2, -1))
    largest = np.einsum("...ii->...i", matrix).max(axis=-1)[..., None, None]
    matrix = matrix + (ridge * largest + 1e-300) * np.eye(k)
    return np.moveaxis(np.linalg.solve(matrix, np.stack(right, axis=-1)[..., None])[..., 0], -1, 0)


def _pick(
    model: Model,
    names: list[str],
    mesh: list[Array],
    axes: list[int],
    solved: Array,
    sse: Array,
    size: Array,
    count: int,
) -> list[Array]:
    """The best grid points of every curve, none a neighbor of a better one."""
    units = {parameter.name: parameter.unit for parameter in model.parameters}
    place = np.stack(np.unravel_index(np.arange(mesh[0].size), axes), axis=1)
    left, rows, found = sse.copy(), np.arange(len(sse)), []
    for _ in range(count):
        best = left.argmin(axis=1)
        columns = {name: axis[best] for name, axis in zip(names, mesh, strict=True)}
        columns |= {name: solved[a, rows, best] * size for a, name in enumerate(model.linear_in)}
        columns |= {name: columns[name] * size for name in names if units[name].startswith("y")}
        found.append(np.stack([columns[name] for name in model.names], axis=1))
        if len(found) < count:
            near = (np.abs(place[None, :, :] - place[best][:, None, :]) <= 1).all(axis=2)
            left[near] = np.inf
    return found
