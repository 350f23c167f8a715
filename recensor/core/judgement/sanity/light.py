"""Light: what was seen of a lamp or a light diode, against what it should take."""

from collections.abc import Iterator

from recensor.core.circuit import MEASURED, Setup
from recensor.core.judgement.sanity.bench import SanityCheck, SanityReadings
from recensor.core.judgement.starting_values import values_of
from recensor.core.record import Light
from recensor.core.solving import operate

# Shares of the rated power, of a filament, and of the stated current, of a light diode: below the first no light is
# seen, above the second nobody calls it dark, and from the third on it may be called bright (common practice, no
# source).
_FILAMENT, _DIODE = (0.01, 0.4, 0.05), (0.001, 0.05, 0.05)


def seen_light(bench: SanityReadings, setup: Setup) -> Iterator[SanityCheck]:
    """What lights is as bright as it should be, by what the circuit should give it."""
    seen = {one.part: one.light for one in bench.measurements.run.seen if one.setup == setup.name}
    if not seen:
        return
    operating = operate(bench.sheet, setup, values_of(bench.sheet, setup, bench.measurements, MEASURED).known)
    for name, light in seen.items():
        part = bench.sheet.parts[name]
        if part.current is None or part.nominal is None or name not in operating.parts:
            continue
        state, amperes = operating.parts[name], float(part.current)
        if part.kind.polarised:
            share, what, limits = state.amperes / amperes, "the current that it is stated at", _DIODE
        else:
            share, what, limits = state.watts / (float(part.nominal) * amperes), "its rated power", _FILAMENT
        unseen, lit, bright = limits
        fits = {Light.DARK: share < lit, Light.DIM: share > unseen, Light.BRIGHT: share > bright}[light]
        text = f"{name} was seen {light}; by what the circuit gives it, it takes {max(share, 0.0):.0%} of {what}"
        yield SanityCheck("what lights is as bright as it should be", setup.name, (), fits, f"{text}.")
