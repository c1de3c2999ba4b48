"""Other chords for the same place: keys and functions, rules, melody fit, and the joint search."""
