"""One router a subject."""
