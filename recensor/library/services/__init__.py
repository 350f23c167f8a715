"""What a person can do in the library: one function for each thing."""


class RefusedError(ValueError):
    """It cannot be done; the message is for the person who tried."""
