"""HTTP: routers parse, call, return."""
