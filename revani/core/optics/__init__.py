"""Where things fall on the sensor, and what is sharp."""
