"""A film made of shots: what comes of them in their order, judged across, and the list of the day."""
