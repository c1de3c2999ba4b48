"""Charts to begin a new song with."""

from __future__ import annotations

#: Name -> chart text: forms that many songs have, with chords that are there to be written over.
TEMPLATES: dict[str, str] = {
    "Eight bars": (
        "title: Untitled\nkey: C\nmeter: 4/4\ntempo: 100\n\n[Verse]\n| C | Am7 | Dm7 | G7 |\n"
        "| C | Am7 | Dm7 G7 | C |\n"
    ),
    "Twelve bars": (
        "title: Untitled\nkey: F\nmeter: 4/4\ntempo: 112\n\n[Chorus] x2\n| F7 | Bb7 | F7 | F7 |\n"
        "| Bb7 | Bb7 | F7 | D7 |\n| Gm7 | C7 | F7 | C7 |\n"
    ),
    "Thirty-two bars, AABA": (
        "title: Untitled\nkey: Eb\nmeter: 4/4\ntempo: 120\nform: A, A, B, A\n\n"
        "[A]\n| Ebmaj7 | Cm7 | Fm7 | Bb7 |\n| Gm7 | C7 | Fm7 Bb7 | Ebmaj7 |\n\n"
        "[B]\n| Abmaj7 | Abm6 | Ebmaj7 | Ebmaj7 |\n| Am7b5 | D7 | Gm7 C7 | Fm7 Bb7 |\n"
    ),
    "Verse and chorus": (
        "title: Untitled\nkey: G\nmeter: 4/4\ntempo: 92\nform: Verse, Chorus, Verse, Chorus, Ending\n\n"
        "[Verse]\n| G | D/F# | Em7 | C |\n| G | D/F# | Cadd9 | D |\n\n"
        "[Chorus]\n| C | D | G | Em7 |\n| C | D | G | G |\n\n[Ending]\n| C | G |\n"
    ),
    "Waltz": (
        "title: Untitled\nkey: A\nmeter: 3/4\ntempo: 84\n\n[Verse] x2\n| A | C#m7 | D | E7 |\n"
        "|1. F#m7 | Bm7 | E7 | E7 |\n|2. F#m7 | Bm7 E7:1 | A | A |\n"
    ),
    "Vamp of two chords": (
        "title: Untitled\nkey: Dm\nmeter: 4/4\ntempo: 104\n\n[Vamp] x4\n| Dm9 | G13 |\n"
    ),
}  # fmt: skip
