"""A song is read, wished for, solved and described: what every other folder begins with.

- ``chart_names``: Another name for a chord of the chart, as it would be typed: the rest of the text stays.
- ``describe_song``: A song's voicings described for showing and writing. Loads no arrays: the window paints
  before the search is there.
- ``differences``: What two states of a song differ in, in a few words.
- ``drafts``: Chart text while it is being typed: what it reads as, or what is to mend in it.
- ``known``: A song from elsewhere may name schools that this library does not have.
- ``local_keys``: The keys that a song goes through, and where each of its chords leads.
- ``problem``: From a song to a problem for the planner: what is wanted of every chord.
- ``rule_desk``: What a rule for a stretch would cost, and which chords cannot obey it, before it is set.
- ``sentences``: All wishes and rules of a take as one list of sentences, each of which can be switched off.
- ``session``: Keeps a song solved: its row first, then the ranks of its voicings, then other rows.
- ``solved``: What is known of a song that is kept solved, as values. Loads no arrays: pages read it before
  the search is there.
- ``templates``: Charts to begin a new song with.
- ``top_line``: Where each chord stands in its section, and what that asks of the top line and of the
  ending.
- ``tune_in``: A tune that was played in goes into the song, and into the chart's text as it would be typed.
- ``voice_song``: Voice a song: build the problem from the document, solve it, put the answer back.
- ``ways_out``: How grips of the player's own that the hands cannot reach could be played all the same, one
  by one or all at once.
"""
