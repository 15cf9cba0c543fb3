"""The database: plain SQL in, dataclasses out. Only the web process writes."""
