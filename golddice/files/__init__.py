"""Files: the game file in and out."""
