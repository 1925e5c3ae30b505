"""Gold Dice: author loot tables, see their exact odds, simulate the players who roll them."""
