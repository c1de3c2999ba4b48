"""The Keys page: the song in twelve keys beside each other."""
