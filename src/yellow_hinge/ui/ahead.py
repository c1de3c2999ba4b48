"""What the window's first page works with, loaded before Qt's binding. From then on the binding looks through
the source of every module that is imported, for a switch of its own; here that would be half of what loading
takes. Nothing else may depend on this: leaving it out only makes the start slower."""

from __future__ import annotations

import yellow_hinge.reharm.connections
import yellow_hinge.reharm.lines
import yellow_hinge.song.edits
import yellow_hinge.song.grip_edits
import yellow_hinge.song.groove_edits
import yellow_hinge.song.history
import yellow_hinge.song.pairs
import yellow_hinge.song.walk
import yellow_hinge.sound.loudness
import yellow_hinge.stopping
import yellow_hinge.tasks.files.opening
import yellow_hinge.tasks.files.recovery
import yellow_hinge.tasks.rhythm.small_notes
import yellow_hinge.tasks.settings.library
import yellow_hinge.tasks.settings.recent
import yellow_hinge.tasks.song.differences
import yellow_hinge.tasks.song.drafts
import yellow_hinge.tasks.song.known
import yellow_hinge.tasks.song.solved
import yellow_hinge.tasks.song.templates
import yellow_hinge.theory.pretty
import yellow_hinge.voicing.handling  # noqa: F401
