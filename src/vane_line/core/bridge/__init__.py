"""Several abutments under one bridge: their common path, and the room between them."""
