"""Working a circuit out: the law of each kind, the network solved, a setup operating, and the ways a person does it."""

from recensor.core.solving import current_path, equations
from recensor.core.solving.current_path import Waypoint
from recensor.core.solving.equations import AtNode, Equation, Mesh, OfSource, SetToZero, Sought, System, Unknown
from recensor.core.solving.laws import LAWS, Element, Filament, Junction, Law, NetworkError, Rated, ResistanceError
from recensor.core.solving.load_line import Guess, LoadLine, guesses, load_line, nonlinear_parts
from recensor.core.solving.metered import METER, with_meter
from recensor.core.solving.network import (
    CurrentSourceOpenError,
    Network,
    ReferenceNodeError,
    SourceLoopError,
    UnknownNodeError,
    solve,
)
from recensor.core.solving.nonlinear import NothingLimitsError, NotSettledError
from recensor.core.solving.operating import (
    Operating,
    PartState,
    UnmarkedError,
    dead,
    elements_of,
    operate,
    resistance_between,
)
from recensor.core.solving.reduction import Merge, Reduction, Split, reduce
from recensor.core.solving.solution import NotJoinedError, Solution, blocks
from recensor.core.solving.tolerances import Variation, vary
from recensor.core.solving.values import Value, Values, stated, stated_value
from recensor.core.solving.variants import OPEN_OHMS, MovedLead, Responses, Variants

__all__ = [
    "LAWS",
    "METER",
    "OPEN_OHMS",
    "AtNode",
    "CurrentSourceOpenError",
    "Element",
    "Equation",
    "Filament",
    "Guess",
    "Junction",
    "Law",
    "LoadLine",
    "Merge",
    "Mesh",
    "MovedLead",
    "Network",
    "NetworkError",
    "NotJoinedError",
    "NotSettledError",
    "NothingLimitsError",
    "OfSource",
    "Operating",
    "PartState",
    "Rated",
    "Reduction",
    "ReferenceNodeError",
    "ResistanceError",
    "Responses",
    "SetToZero",
    "Solution",
    "Sought",
    "SourceLoopError",
    "Split",
    "System",
    "Unknown",
    "UnknownNodeError",
    "UnmarkedError",
    "Value",
    "Values",
    "Variants",
    "Variation",
    "Waypoint",
    "blocks",
    "current_path",
    "dead",
    "elements_of",
    "equations",
    "guesses",
    "load_line",
    "nonlinear_parts",
    "operate",
    "reduce",
    "resistance_between",
    "solve",
    "stated",
    "stated_value",
    "vary",
    "with_meter",
]  # fmt: skip
