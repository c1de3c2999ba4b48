"""In and out: opening, saving, pasting, checking, sound files, and copies for the day something stops.

- ``check_file``: Reads a file of any format that we know, and says everything that is wrong with it.
- ``formats``: The formats that songs are read from and written to.
- ``opening``: Open, save and export songs, and what a window holds and no file does.
- ``pasted``: Text from anywhere as a song: what it was taken for, line by line, before anything is done
  with it.
- ``played_midi``: A MIDI file as a song: its chords with the grips that were played, locked as grips of the
  player's own.
- ``recovery``: Copies of unsaved songs, for the day the program or the machine stops in the middle.
- ``row_table``: The row as a table for other programs: a line for each chord that sounds.
- ``sound_file``: A song as a sound file, to play along with away from the screen: counted in, faster by
  rounds, hands left out.
"""
