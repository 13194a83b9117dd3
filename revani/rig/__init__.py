"""What a camera can do, and the drivers and stand-ins that do it."""
