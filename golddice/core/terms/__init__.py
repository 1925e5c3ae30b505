"""On what terms things are rolled: a game at some depths, with some flags set."""
