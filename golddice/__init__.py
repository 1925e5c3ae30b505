"""Gold Dice: author loot tables, see their exact odds, simulate the players who roll them."""

import os

# Matrices here are small: threads for them cost more than they bring, and would stand in the way of
# trials. Has to be said before NumPy is imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
