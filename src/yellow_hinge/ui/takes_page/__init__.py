"""The Takes page: versions of the song in lanes, and the route through them."""
