"""How much light there is, and what a camera does about it."""
