"""The Practise page: what to drill today, and the hands at it."""
