"""What is known of a run while it goes on, and afterwards."""
