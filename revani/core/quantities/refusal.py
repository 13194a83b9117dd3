"""The way in which Revani says no."""


class Refusal(ValueError):
    """Input that cannot be used.

    `path` names the field at fault (`timing.interval_s`), `allowed` is a sentence that says what
    would be accepted, `value` is what was given.
    """

    def __init__(self, path: str, allowed: str, value: object = None) -> None:
        super().__init__(f"{path}: {allowed}" if path else allowed)
        self.path = path
        self.allowed = allowed
        self.value = value

    def below(self, prefix: str) -> "Refusal":
        """The same refusal, seen from a document that holds the field under `prefix`."""
        return Refusal(f"{prefix}.{self.path}" if self.path else prefix, self.allowed, self.value)


class Refusals(ValueError):
    """Several refusals of one document at once."""

    def __init__(self, refused: tuple[Refusal, ...]) -> None:
        super().__init__("; ".join(str(one) for one in refused))
        self.refused = refused
