"""The page's own logic, below the browser: its modules are run by Node and asked through a pipe."""
