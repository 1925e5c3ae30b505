"""Curves as arrays: the multiplier at each of many depths."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import PchipInterpolator

from golddice.core.arrays import FloatArray, IntArray
from golddice.core.game.models import Curve


def multiplier(curve: Curve, depths: IntArray) -> FloatArray:
    """The curve's value at each depth.

    Parameters
    ----------
    curve : Curve
        Points (depth, multiplier), depths rising.
    depths : ndarray of int, shape (d,)

    Returns
    -------
    ndarray, shape (d,)
        Multipliers >= 0. Outside the points the end values hold.

    Notes
    -----
    `line` is linear between points, `step` holds each value until the next point, `ease` is SciPy's
    PchipInterpolator (Fritsch and Butland 1984), which never overshoots.
    """
    at = np.array([depth for depth, _ in curve.points], dtype=np.float64)
    value = np.array([value for _, value in curve.points], dtype=np.float64)
    inside = np.clip(depths.astype(np.float64), at[0], at[-1])
    if curve.shape == "step":
        return np.asarray(value[np.searchsorted(at, inside, side="right") - 1])
    if curve.shape == "ease" and at.size > 2:
        return np.asarray(np.maximum(PchipInterpolator(at, value)(inside), 0.0))
    return np.interp(inside, at, value)
