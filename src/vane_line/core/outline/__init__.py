"""The closed curve where cut surface meets what was left, for kinds whose finish line does not go round the tooth."""
