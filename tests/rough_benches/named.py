"""Whether a cause names what is wrong."""

from collections.abc import Sequence

from recensor.core.faults import Cause

# What comes to the same while a part was not read by itself.
_ALSO = {"part open": ("part open", "joint open"), "part shorted": ("part shorted", "leads in one row")}

# Of a digit that is another, or two that changed places, it is enough that the reading is named.
_DIGITS = ("unexplained", "misread digit", "transposed digits")


def is_named(cause: Cause, kind: str, targets: Sequence[str]) -> bool:
    """By itself, or among what comes to the same."""
    if kind in _DIGITS and str(cause.kind) in _DIGITS and cause.targets[:1] == tuple(targets):
        return True
    named = {(str(cause.kind), t) for t in cause.targets} | {(str(also), t) for also, t in cause.same}
    return any((one, target) in named for one in _ALSO.get(kind, (kind,)) for target in targets)
