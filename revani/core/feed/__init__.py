"""What runs out: energy and card."""
