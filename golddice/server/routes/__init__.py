"""One router per resource."""
