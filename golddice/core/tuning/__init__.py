"""Targets: the numbers that a designer wants, and where they stand."""

from golddice.core.tuning.targets import Standing, standings

__all__ = ["Standing", "standings"]
