"""A bridge before cutting: one path for all of its abutments, and what goes of each along it."""
