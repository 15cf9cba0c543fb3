"""Marks by a rubric, what an eye saw against what was measured, and a class of preparations together."""
