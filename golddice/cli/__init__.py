"""The command line."""

from golddice.cli.start import main

__all__ = ["main"]
