"""Words for what the engine says: the one place where they are made."""
