"""Logs of the running game: made here, read in pieces, and held against what was authored."""
