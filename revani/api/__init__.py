"""The web process: one router per record kind."""
