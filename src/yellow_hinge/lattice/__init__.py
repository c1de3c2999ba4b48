"""Cheapest path through columns of candidates. Integer costs in, indices out; no music."""
