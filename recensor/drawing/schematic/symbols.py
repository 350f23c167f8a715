"""The symbol of each kind of part: its file, and how far its label stands off where it is drawn upright."""

from dataclasses import dataclass

from recensor.core.circuit import (
    CURRENT_SOURCE,
    DIODE,
    LAMP,
    LED,
    RESISTOR,
    RHEOSTAT,
    SWITCH,
    THERMISTOR,
    VOLTAGE_SOURCE,
    WIRE,
    Kind,
    Off,
)


@dataclass(frozen=True)
class Look:
    """How a symbol looks: the name of its file under ``templates/drawing/symbols``, and its label's place."""

    name: str
    label: int = 26

    @property
    def template(self) -> str:
        """The template that draws it, upright and with its first lead above."""
        return f"drawing/symbols/{self.name}.svg"


SYMBOLS: dict[Kind, Look] = {
    RESISTOR: Look("resistor", label=15),
    VOLTAGE_SOURCE: Look("voltage-source"),
    CURRENT_SOURCE: Look("current-source"),
    RHEOSTAT: Look("rheostat", label=20),
    THERMISTOR: Look("thermistor", label=20),
    LAMP: Look("lamp"),
    DIODE: Look("diode", label=18),
    LED: Look("led", label=30),
    SWITCH: Look("switch", label=18),
    WIRE: Look("wire", label=10),
}

# A switch that is open.
OPEN = Look("switch-open", label=18)

# What is drawn in the place of a source that is off.
OFF = {Off.WIRE: Look("off-wire"), Off.NOTHING: Look("off-nothing")}
