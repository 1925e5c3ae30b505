"""What may lie at the spots of a place, how many of it, and a place as tables that are rolled."""
