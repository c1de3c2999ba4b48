"""How loud playing begins."""

#: Begin at moderate volume, 0..1; the ears come first.
START_VOLUME = 0.5
