"""All depths at once: what is found where, by how much it swings, and what a visit meets."""
