"""Pages to print, made from plain documents."""
