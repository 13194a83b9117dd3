"""The picture that a frame would be, and what passes through it."""
