"""The process that listens: it hands questions and edits to worker processes, and waits for no one."""
