"""One module a measure."""
