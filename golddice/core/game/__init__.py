"""A game under design: its models, its quantities and curves, and what is wrong with it."""
