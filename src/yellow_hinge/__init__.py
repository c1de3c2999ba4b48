"""Yellow Hinge: two-hand voicings for keyboardists who play from chords."""

__version__ = "0.1.0"
