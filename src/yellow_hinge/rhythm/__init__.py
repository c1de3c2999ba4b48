"""Time in beats and what sounds when. Knows no song and no sound."""
