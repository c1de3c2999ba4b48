"""The faces of the side of the workbench: one place, one open at a time, each a letter."""

from __future__ import annotations

from yellow_hinge.ui.faces import Face

FACES = (
    Face("others", "Others", "E", "Other voicings of this chord, by what they cost the song"),
    Face("grip", "My grip", "Y", "A grip of your own: click keys or type notes, see what it is, keep it"),
    Face("names", "Names", "I", "What these notes can be called, and over every bass"),
    Face("rules", "Rules", "W",
         "School, colour and melody for this chord, its section or the song; keep a hand"),
    Face("solo", "Solo", "S", "For a solo line: the scale on the keys, guide tones and targets"),
)  # fmt: skip
