"""All depths at once: what is found where, and what a visit meets."""
