"""Surfaces: files in and out, welding, quality, units."""
