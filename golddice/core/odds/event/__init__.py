"""One event, of whoever carries nothing: moments of all that it can give."""
