"""What a player has received after every stop of a route, exactly where the states can be followed."""
