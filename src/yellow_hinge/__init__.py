"""Yellow Hinge: two-hand voicings for keyboardists who play from chords."""

__version__ = "1.0.0"
