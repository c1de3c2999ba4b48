"""Instruments, outputs and the player, with stand-ins on the same base as the real ones."""
