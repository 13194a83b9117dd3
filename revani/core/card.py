"""Memory cards: what fits, and what is kept free."""

RESERVE_FRACTION = 0.1


def capacity_bytes(capacity_gb: float) -> int:
    """Bytes on a card sold as `capacity_gb` decimal gigabytes."""
    return int(capacity_gb * 1_000_000_000)


def frames_that_fit(bytes_per_frame: int, capacity_gb: float, reserve_fraction: float = 0.0) -> int:
    """Whole frames that a card takes when `reserve_fraction` of it stays free."""
    return int(capacity_bytes(capacity_gb) * (1 - reserve_fraction)) // bytes_per_frame
