"""The shortest step that meets linear bounds."""

from __future__ import annotations

import numpy as np
from scipy.optimize import nnls

from golddice.core.arrays import FloatArray

_INSIDE = 1e-10
SOFT = 1e-5  # what a squared step costs beside a squared miss
_ROUNDS = 60


def shortest(rows: FloatArray, least: FloatArray, equal: FloatArray, to: FloatArray) -> FloatArray | None:
    """The shortest x with rows @ x >= least and equal @ x = to; None where there is none.

    Shapes (m, n), (m,), (k, n), (k,). Least distance programming by non-negative least squares (Lawson and
    Hanson 1974, chapter 23); equalities leave what is free. Only bounds that are in the way are handed over.
    """
    start, free = _free(equal, to, rows.shape[1])
    if start is None:
        return None
    inner, room = rows @ free, least - rows @ start
    size = np.linalg.norm(inner, axis=1)
    if np.any(room[size < 1e-14] > _INSIDE):
        return None
    at = np.zeros(free.shape[1])
    held = np.zeros(least.size, dtype=bool)
    for _ in range(_ROUNDS):
        short = room - inner @ at
        worse = (short > _INSIDE * (1 + np.abs(room))) & ~held & (size >= 1e-14)
        if not worse.any():
            return np.asarray(start + free @ at)
        held |= worse & (short >= 0.1 * short[worse].max())
        found = _least_distance(inner[held], room[held])
        if found is None:
            return None
        at = found
    return np.asarray(start + free @ at)


def nearest(
    rows: FloatArray,
    least: FloatArray,
    equal: FloatArray,
    to: FloatArray,
    weights: FloatArray,
    soft: float = SOFT,
) -> FloatArray:
    """The x that misses bounds by the least, squares weighted by `weights` (m,); of these the shortest, whose
    square costs `soft`. Bounds of infinite weight are kept."""
    count, hard = least.size, np.isinf(weights)
    give = np.where(hard, 0.0, np.sqrt(soft / np.where(hard, 1.0, weights)))
    gives = np.flatnonzero(~hard)
    wide = np.zeros((count, gives.size))
    wide[gives, np.arange(gives.size)] = give[gives]
    found = shortest(
        np.hstack([rows, wide]), least, np.hstack([equal, np.zeros((equal.shape[0], gives.size))]), to
    )
    return np.zeros(rows.shape[1]) if found is None else found[: rows.shape[1]]


def _free(equal: FloatArray, to: FloatArray, count: int) -> tuple[FloatArray | None, FloatArray]:
    """The shortest x that equalities ask for, and directions in which they leave it free."""
    if not equal.size:
        return np.zeros(count), np.eye(count)
    u, sizes, v = np.linalg.svd(equal, full_matrices=True)
    rank = int((sizes > 1e-12 * max(sizes[0], 1e-300)).sum())
    start = v[:rank].T @ ((u.T @ to)[:rank] / sizes[:rank])
    if np.linalg.norm(equal @ start - to) > 1e-8 * (1 + np.linalg.norm(to)):
        return None, np.zeros((count, 0))
    return start, v[rank:].T


def _least_distance(rows: FloatArray, least: FloatArray) -> FloatArray | None:
    scale = float(np.abs(least).max())
    if scale == 0.0:
        return np.zeros(rows.shape[1])
    both = np.vstack([rows.T, least[None] / scale])
    wanted = np.zeros(both.shape[0])
    wanted[-1] = 1.0
    try:
        held, _ = nnls(both, wanted, maxiter=20 * max(both.shape))
    except RuntimeError:
        return None
    left = both @ held - wanted
    if abs(left[-1]) < 1e-11:
        return None
    return np.asarray(-left[:-1] / left[-1] * scale)
