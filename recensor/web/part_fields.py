"""What is stated of a part, as fields of a form: they stand once, on the part's kind."""

from dataclasses import dataclass

from recensor.core.circuit import UNMARKED, Part, SourceType

# What a source may be said to be.
SOURCE_CHOICES = (
    ("", "any source"),
    (SourceType.BATTERY.value, "a battery or cells"),
    (SourceType.PACK.value, "a wall pack"),
    (SourceType.SUPPLY.value, "a bench supply"),
)


@dataclass(frozen=True)
class PartField:
    """One thing that is said of a part: the field's name, what it is in words, and how it stands."""

    name: str
    words: str
    text: str


def part_fields(part: Part) -> tuple[PartField, ...]:
    """The fields of a part: its name, its value, and what else its kind has; of a wire the name alone."""
    name = PartField("name", "Name", part.name)
    if part.kind.is_wire:
        return (name,)
    value = PartField("value", part.kind.value.words, part.nominal.text if part.nominal else UNMARKED)
    others = (stated for stated in part.kind.states if stated is not part.kind.value)
    quantities = [(stated, part.stated(stated.name)) for stated in others]
    return (name, value, *(PartField(s.name, s.words, q.text if q else "") for s, q in quantities))
