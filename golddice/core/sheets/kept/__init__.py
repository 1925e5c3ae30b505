"""Sheets about what is kept: containers, parcels, kit, sets, properties, and what a route leaves a player
with."""
