"""The Hands page: reach found by trying, notes at once, register, keyboard size."""
