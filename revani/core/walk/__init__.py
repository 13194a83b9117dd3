"""The film of a walk."""
