"""What goes out to others and comes back: thresholds for a game's code, spreadsheets, logs of what it did."""
