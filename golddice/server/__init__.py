"""The web application: HTTP over the core and the store."""
