"""The operating point of a circuit with lamps and diodes: where their laws and the rest of the circuit agree.

The rest is linear: seen from the nonlinear parts it is a voltage for each, and a resistance for each two (Thévenin).
So one solution of the network gives a system no larger than the nonlinear parts are many, and Newton's iteration runs
on that, for all value sets at once.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from recensor.core.sentences import say
from recensor.core.solving.laws import Element, NetworkError, NonlinearLaw, Rated
from recensor.core.uncertainty import Array

_MOST_ROUNDS = 200

# A step this small, in volts, is settled: the solution of the whole network takes one more, and what then is left is
# the square of this over the volts in which a law bends.
_SETTLED = 1e-6

# A current in amperes that nobody reads: what is left of a blocked diode's is settled.
_FAINT = 1e-15

# A diode that carries so many times its stated current has nothing beside it.
_TOO_MUCH = 1e4

# No bench has so many volts across a diode.
_MOST_VOLTS = 1e5


class NotSettledError(NetworkError):
    """No operating point was found."""


class NothingLimitsError(NetworkError):
    """Nothing limits the current through a diode."""


@dataclass(frozen=True)
class Alike:
    """Nonlinear elements of one law: their places among all nonlinear ones, and what they are rated for, as columns."""

    law: NonlinearLaw
    places: tuple[int, ...]
    rated: Rated
    names: tuple[str, ...]

    @classmethod
    def of(cls, law: NonlinearLaw, places: Sequence[int], elements: Sequence[Element]) -> "Alike":
        """These elements."""
        rated = [element.rated for element in elements if element.rated]
        columns = Rated(np.array([one.amperes for one in rated]), np.array([one.cold for one in rated]))
        return cls(law, tuple(places), columns, tuple(element.name for element in elements))

    @cached_property
    def at(self) -> "slice | NDArray[np.int64]":
        """Their places as an index; a slice where they follow each other, which is faster."""
        first, last = self.places[0], self.places[-1]
        return slice(first, last + 1) if last - first == len(self.places) - 1 else np.array(self.places)


def settle(
    alike: Sequence[Alike], values: Array, ports: Array, beside: Array, *, plain: "NDArray[np.bool_] | None" = None
) -> tuple[Array, Array]:
    """The operating point of nonlinear elements: what each conducts there, and the current that flows beside that.

    Of N elements, `values` has shape (…, N). `ports` (…, N, 1 + N) is the rest of the circuit as they see it, in which
    plain conductances `beside`, in siemens, stand there: the volts across each, and the ohms between each two.
    Raises `NotSettledError` and `NothingLimitsError`, with the parts concerned. Where `plain` says which elements of
    which value sets are no more than their plain conductance, sets without an operating point are left as far as they
    came.
    """
    standing, ohms = ports[..., 0], ports[..., 1:]
    count = standing.shape[-1]
    each: Array = np.eye(count)
    step: Array
    drops, amperes, siemens = np.empty_like(standing), np.empty_like(standing), np.empty_like(standing)
    for one in alike:
        drops[..., one.at] = one.law.begin(values[..., one.at], standing[..., one.at])
    for _ in range(_MOST_ROUNDS):
        for one in alike:
            tangent = one.law.at(one.rated, values[..., one.at], drops[..., one.at])
            amperes[..., one.at], siemens[..., one.at] = tangent.amperes, tangent.siemens
        if plain is not None:
            amperes, siemens = np.where(plain, beside * drops, amperes), np.where(plain, beside, siemens)
        left = drops - standing + (ohms @ (amperes - beside * drops)[..., None])[..., 0]
        if count == 1:
            step = left / (1.0 + ohms[..., 0] * (siemens - beside))
        else:
            slopes = each + ohms * (siemens - beside)[..., None, :]
            step = np.asarray(np.linalg.solve(slopes, left[..., None])[..., 0], np.float64)
        wanted = drops - step
        limited = wanted.copy()
        for one in alike:
            limited[..., one.at] = one.law.within(values[..., one.at], wanted[..., one.at], drops[..., one.at])
        if plain is not None:
            limited = np.where(plain, wanted, limited)
        moved = np.abs(limited - drops) + np.abs(limited - wanted)
        unsettled = (moved > _SETTLED * (1.0 + np.abs(wanted))) & (moved * siemens > _FAINT)
        if not unsettled.any():
            break
        drops = limited
    if plain is not None:
        return siemens, amperes - siemens * drops
    for one in alike:
        _check(one, amperes, drops)
    if unsettled.any():
        names = [one.names[j] for one in alike for j, k in enumerate(one.places) if unsettled[..., k].any()]
        raise NotSettledError(say("solving.no_operating_point_found", names=" and ".join(names)), names)
    return siemens, amperes - siemens * drops


def _check(alike: Alike, amperes: Array, drops: Array) -> None:
    """Refuse what no bench has: a current that nothing limits, or a source that pushes one against a diode."""
    own = zip(alike.names, alike.places, strict=True)
    blocking = [name for name, k in own if (drops[..., k] < -_MOST_VOLTS).any()]
    if blocking:
        raise NotSettledError(say("solving.blocks_current_source_pushes", blocking=" and ".join(blocking)), blocking)
    most = _TOO_MUCH * np.asarray(alike.rated.amperes)
    limits = zip(alike.names, alike.places, most.tolist(), strict=True)
    unlimited = [name for name, k, limit in limits if (amperes[..., k] > limit).any()]
    if unlimited:
        text = say("solving.nothing_limits_current_through", unlimited=" and ".join(unlimited))
        raise NothingLimitsError(text, unlimited)
