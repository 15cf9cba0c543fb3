"""Profiles round an axis: sections, walls, creases. What teeth are found by, and what is measured on."""
