"""Where sun, moon and stars are, and what the skyline hides."""
