"""Curves as arrays: the multiplier at each of many depths."""

from __future__ import annotations

import numpy as np

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
    `line` is linear between points, `step` holds each value until the next point, `ease` is monotone
    cubic, which never overshoots.
    """
    at = np.array([depth for depth, _ in curve.points], dtype=np.float64)
    value = np.array([value for _, value in curve.points], dtype=np.float64)
    inside = np.clip(depths.astype(np.float64), at[0], at[-1])
    if curve.shape == "step":
        return np.asarray(value[np.searchsorted(at, inside, side="right") - 1])
    if curve.shape == "ease" and at.size > 2:
        return np.asarray(np.maximum(_eased(at, value, inside), 0.0))
    return np.interp(inside, at, value)


def _eased(at: FloatArray, value: FloatArray, where: FloatArray) -> FloatArray:
    """The cubic Hermite interpolant with Fritsch and Butland's slopes (1984), for three points or more.

    The same as SciPy's PchipInterpolator to rounding. In its place because that takes several times as long
    to make, of which every step of a drag makes several, and half a second to load.
    """
    width, rise = np.diff(at), np.diff(value) / np.diff(at)
    slope = np.zeros_like(value)
    left, right = rise[:-1], rise[1:]
    same = left * right > 0
    near, far = 2 * width[1:] + width[:-1], width[1:] + 2 * width[:-1]
    slope[1:-1][same] = (near + far)[same] / (near[same] / left[same] + far[same] / right[same])
    slope[0] = _end_slope(width[0], width[1], rise[0], rise[1])
    slope[-1] = _end_slope(width[-1], width[-2], rise[-1], rise[-2])
    piece = np.clip(np.searchsorted(at, where, side="right") - 1, 0, width.size - 1)
    t, h = (where - at[piece]) / width[piece], width[piece]
    return np.asarray(
        value[piece] * (1 + 2 * t) * (1 - t) ** 2
        + value[piece + 1] * t**2 * (3 - 2 * t)
        + h * slope[piece] * t * (1 - t) ** 2
        - h * slope[piece + 1] * t**2 * (1 - t)
    )


def _end_slope(width: float, next_width: float, rise: float, next_rise: float) -> float:
    """The three-point slope at an end, bent back where it would run past its neighbour."""
    slope = ((2 * width + next_width) * rise - width * next_rise) / (width + next_width)
    if np.sign(slope) != np.sign(rise):
        return 0.0
    if np.sign(rise) != np.sign(next_rise) and abs(slope) > 3 * abs(rise):
        return float(3 * rise)
    return float(slope)
