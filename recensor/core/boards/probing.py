"""What a meter shows between two holes of a built circuit, and why."""

from dataclasses import dataclass

from recensor.core.boards.breadboard import Built, Hole
from recensor.core.boards.compare import BoardComparison
from recensor.core.circuit import RESISTOR, Setup, Sheet, Target
from recensor.core.figures import rounded
from recensor.core.meters import ORDINARY_HANDHELD, Profile, disturbs_by, setting
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand, counts_as_zero
from recensor.core.sentences import say, several
from recensor.core.solving import (
    METER,
    Element,
    NetworkError,
    dead,
    elements_of,
    resistance_between,
    solve,
    stated_value,
)

# A meter that hardly disturbs, in ohms: to see which range it is read in.
_IDEAL = {VOLTAGE: 1e12, CURRENT: 1e-3}


@dataclass(frozen=True)
class Shown:
    """What the display shows, in SI units, None for over-range or nothing definite; and the reason in words."""

    value: float | None
    text: str
    reason: str


def probe(
    sheet: Sheet,
    setup: Setup,
    built: Built,
    red: Hole,
    black: Hole,
    measurand: Measurand,
    profile: Profile = ORDINARY_HANDHELD,
) -> Shown:
    """Put the probes of a meter into two holes of a board whose parts are as a setup says, else as they are marked.

    The meter stands in its best range, and disturbs the circuit as its profile says.
    """
    nets, parts = built.nets(), sheet.parts
    strip, other = nets.of(red), nets.of(black)
    connections = nets.connections
    live = {name for name in connections if name in parts and parts[name].kind.is_source}
    touched = {net for name in connections if name in parts for net in connections[name]}
    unit = measurand.unit
    if strip == other:
        return Shown(0.0, f"0 {unit}", say("boards.both_in_or_in", strip=strip.words))
    empty = [hole.name for hole, net in ((red, strip), (black, other)) if net not in touched]
    if empty:
        if measurand is RESISTANCE:
            return Shown(None, "OL", say("boards.nothing_pushed_into_row_open", empty=" and ".join(empty)))
        return Shown(0.0, f"0 {unit}", say("boards.nothing_pushed_into_row", empty=" and ".join(empty)))
    here = [name for name in connections if name in parts]
    known = {name: stated_value(sheet, setup, name).size for name in here}
    unmarked = sorted(name for name, value in known.items() if value is None)
    if unmarked:
        return Shown(None, "–", say("boards.unmarked_what_would_show", unmarked=" and ".join(unmarked)))
    circuit = {name: (a.words, b.words) for name, (a, b) in connections.items() if name in parts and a != b}
    values = {name: float(value) for name, value in known.items() if value is not None}
    standing = Setup("built", black.name, circuit, open=setup.open & set(circuit))
    elements = elements_of(standing, parts, values)
    if measurand is RESISTANCE:
        vague = [name for name in circuit if parts[name].kind.is_nonlinear and not parts[name].cold]
        if vague and not live:
            return Shown(None, "–", say("boards.lamp_cold_and_diode", vague=" and ".join(vague)))
        return _ohms(dead(standing, parts, values), strip.words, other.words, live, profile)
    return _live(elements, strip.words, other.words, measurand, profile)


def _text(value: float, measurand: Measurand, profile: Profile) -> str:
    """The display, in the best range; of a perfect meter four figures."""
    shows = None if profile.is_exact else setting(profile, measurand, value).shows
    return shows.text if shows else rounded(float(f"{value:.7g}"), None, measurand.unit)  # but for the probing


def _ohms(elements: list[Element], red: str, black: str, live: set[str], profile: Profile) -> Shown:
    passive = [e for e in elements if not e.kind.is_source]
    if live:
        named = " and ".join(sorted(live))
        return Shown(None, "–", say("boards.on_board_ohms_only", named=named))
    (found,) = resistance_between(passive, [(red, black)])
    if found is None:
        return Shown(None, "OL", say("boards.no_path_joins_two"))
    value, slopes = found
    alone = [e.name for e in passive if {e.first, e.second} == {red, black}]
    # What carries none of the meter's current does not count.
    others = sum(slope > 1e-12 for name, slope in slopes.items() if name not in alone[:1])
    reason = say("boards.resistance_between_two_nodes")
    if alone and others:
        reason = say("boards.with_everything_beside_in", alone=alone[0], count=others)
    return Shown(value, _text(value, RESISTANCE, profile), reason)


def _live(elements: list[Element], red: str, black: str, measurand: Measurand, profile: Profile) -> Shown:
    value, ohms = 0.0, _IDEAL[measurand]
    try:
        for _ in range(3):  # the range hangs on what is shown, and what is shown on the range
            solution = solve([*elements, Element(METER, RESISTOR, red, black, ohms)], black)
            value = float(solution.voltage(red, black) if measurand is VOLTAGE else solution.current(METER))
            ohms = disturbs_by(profile, measurand, value) or ohms
    except NetworkError as error:
        return Shown(None, "–", say("boards.why_not_solved", error=error))
    unit = measurand.unit
    if counts_as_zero(value, solution.driving_voltage if measurand is VOLTAGE else solution.driving_current):
        driven = any(e.kind.is_source and e.value and solution.network.joined(e.first, red) for e in elements)
        at_one = say("boards.two_nodes_at_one")
        return Shown(0.0, f"0 {unit}", at_one if driven else say("boards.no_source_drives_anything"))
    across = [e.name for e in elements if {e.first, e.second} == {red, black}]
    if measurand is CURRENT and across:
        reason = say("boards.ammeter_lies_across_shorts", across=" and ".join(across))
    elif measurand is CURRENT:
        reason = say("boards.current_takes_way_through")
    else:
        reason = (
            say("boards.voltage", across=" and ".join(across)) if across else say("boards.voltage_between_two_nodes")
        )
    if value < 0:
        reason = several(reason, say("boards.red_at_lower_potential"))
    return Shown(value, _text(value, measurand, profile), reason)


def probes_at(target: Target, built: Built, comparison: BoardComparison) -> dict[str, Hole]:
    """A hole for each probe of a reading between two nodes, where its nodes are on the board."""
    if not target.is_across:
        return {}
    holes = {}
    for colour, node in (("red", target.red), ("black", target.black)):
        strip = next((strip for strip, name in comparison.nodes.items() if name == node), None)
        if strip is None:
            return {}
        holes[colour] = built.board.holes(strip)[0]
    return holes
