"""What goes over the wire. The parts of a game are the core's own models; the rest is here."""
