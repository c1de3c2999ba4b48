"""A player's taste: prices learnt from their own rows, kept as text, and laid over the schools."""
