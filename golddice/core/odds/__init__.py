"""Exact odds: what every number in a game means for players. No random numbers in here."""
