"""Games kept in PostgreSQL: rows by entity, a log of changes, trials."""
