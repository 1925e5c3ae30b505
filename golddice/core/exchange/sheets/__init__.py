"""Spreadsheets: a game as sheets, and sheets as changes to a game, told before they are made."""
