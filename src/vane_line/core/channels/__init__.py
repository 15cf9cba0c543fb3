"""Grooves and pins: what holds a casting where walls alone do not."""
