"""Trials: seeded simulation of a cohort of players. Shares no arithmetic with the exact odds."""
