"""Places: what may lie where, how it is set out, and what is there when one comes back."""
