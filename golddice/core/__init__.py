"""The heart of the job. Knows nothing of the web, the database, files or the clock."""
