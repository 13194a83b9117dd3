"""The same shot done in several ways, and what sets them apart."""
