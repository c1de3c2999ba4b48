"""Practising: what to drill, what was heard, how sure each change is, and the log of it. No window."""
