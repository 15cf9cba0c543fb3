"""Positions of the lower jaw, and what stands where in each."""
