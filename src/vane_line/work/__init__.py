"""Work as pure functions: bytes and options in, plain result out; a backend runs them (here, or elsewhere)."""
