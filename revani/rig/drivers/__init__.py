"""One module per way of talking to real or simulated gear."""
