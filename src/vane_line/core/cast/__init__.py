"""Castings that leave the face standing: partial crowns held by grooves, castings behind a front tooth held by pins."""
