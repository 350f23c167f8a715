"""The what-if page as a view model: parts with sliders, and every calculated quantity beside its present value."""

from collections.abc import Mapping
from dataclasses import dataclass

from recensor.core.circuit import Part, Setup, Sheet
from recensor.core.figures import as_read, rounded, signed_percent
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, QuantityError, as_ratio, positive
from recensor.core.solving import NetworkError, Variation, elements_of, vary
from recensor.drawing.range_bar import RangeBar, range_bar

FULL = 100
_WORDS = {RESISTANCE: "seen by", VOLTAGE: "voltage of", CURRENT: "current of"}


@dataclass(frozen=True)
class ChangedPart:
    """A part that can be changed: its value as stated and as typed, and where its slider stands, in % of tolerance."""

    index: int
    name: str
    stated: str
    typed: str
    tolerance: str
    slide: int
    error: str


@dataclass(frozen=True)
class ChangedQuantity:
    """A quantity now and with the change."""

    label: str
    now: str
    then: str
    change: str
    worst: str
    likely: str
    bar: RangeBar


@dataclass(frozen=True)
class WhatIf:
    """Everything the page shows; `missing` says why nothing can be calculated."""

    parts: tuple[ChangedPart, ...]
    quantities: tuple[ChangedQuantity, ...]
    missing: str = ""


def what_if_page(sheet: Sheet, setup: Setup, typed: Mapping[str, str]) -> WhatIf:
    """Compare with what was typed: values (``value-3``) and sliders (``slide-3``) by a part's place in the setup."""
    parts, changed, present, tolerances = [], {}, {}, {}
    for k, name in enumerate(_turning(sheet, setup)):
        part = sheet.parts[name]
        stated = setup.stated(part)
        turned, value = _turned(k, part, as_read(stated, part.kind.unit) if stated else "unmarked", typed)
        parts.append(turned)
        present[name] = float(stated) if stated else None
        tolerances[name] = as_ratio(part.tolerance) if part.tolerance else 0.0
        if value is not None or (turned.slide and present[name]):
            base = value if value is not None else present[name] or 0.0
            changed[name] = base * (1.0 + turned.slide / FULL * tolerances[name])
    unmarked = [name for name, value in present.items() if value is None]
    if unmarked:
        return WhatIf(tuple(parts), (), f"{' and '.join(unmarked)} is unmarked: nothing can be calculated without it.")
    known = {name: value for name, value in present.items() if value is not None}
    elements = elements_of(setup, sheet.parts, known)
    try:
        variations = vary(elements, setup.reference, changed, tolerances)
    except NetworkError as error:
        return WhatIf(tuple(parts), (), f"With these values nothing can be calculated: {error}.")
    return WhatIf(tuple(parts), tuple(_moved(variation) for variation in variations))


def _turning(sheet: Sheet, setup: Setup) -> list[str]:
    """The parts that have a value to turn: no wire, and nothing that is off."""
    return [n for n in setup.connections if n not in setup.sources_off and not sheet.parts[n].kind.is_wire]


def _turned(index: int, part: Part, stated: str, typed: Mapping[str, str]) -> tuple[ChangedPart, float | None]:
    text, error, value = typed.get(f"value-{index}", "").strip(), "", None
    try:
        value = float(positive(text, part.kind.unit)) if text else None
    except QuantityError as wrong:
        error = str(wrong)
    slide = typed.get(f"slide-{index}", "0")
    at = int(slide) if slide.lstrip("-").isdecimal() and len(slide) < 5 else 0
    tolerance = f"± {part.tolerance.value:f} %" if part.tolerance else ""
    return ChangedPart(index, part.name, stated, text, tolerance, min(max(at, -FULL), FULL), error), value


def _moved(variation: Variation) -> ChangedQuantity:
    unit = variation.measurand.unit
    now, then = rounded(variation.now, None, unit), rounded(variation.then, None, unit)
    worst = (
        f"{rounded(variation.worst[0], None, unit)} to {rounded(variation.worst[1], None, unit)}"
        if variation.worst
        else ""
    )
    likely = f"± {rounded(2.0 * variation.deviation, None, unit)}" if variation.deviation else ""
    change = signed_percent((variation.then / variation.now - 1.0) * 100.0) if variation.now and then != now else ""
    label = f"{_WORDS[variation.measurand]} {variation.part}"
    bar = range_bar(
        variation.now,
        variation.then,
        variation.worst,
        variation.deviation,
        f"{label}: {now}, worst case {worst or 'not known'}",
    )
    return ChangedQuantity(label, now, then, change, worst, likely, bar)
