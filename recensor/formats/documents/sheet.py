"""A sheet as part of a run document: parts, setups, what judges, what is asked."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, NamedTuple

from recensor.core.circuit import (
    KINDS,
    LEADS,
    LIMIT,
    MOST_STEPS,
    PERCENT,
    Across,
    Basis,
    Comparison,
    Halves,
    Handout,
    Judge,
    JudgedBy,
    Kind,
    Leads,
    Part,
    PartAlone,
    Rule,
    Setup,
    Sheet,
    SourceType,
    Stated,
    Sweep,
    TableMeters,
    Target,
    Through,
    TouchedLeads,
    entering,
    kind_called,
    read_part,
)
from recensor.core.errors import Refused
from recensor.core.quantity import (
    AMPERE,
    CELSIUS,
    CURRENT,
    OHM,
    RESISTANCE,
    VOLT,
    VOLTAGE,
    Measurand,
    Quantity,
    positive,
)
from recensor.formats.documents import potentiometer
from recensor.formats.documents.reader import DocumentError, DocumentPlace, said

# A document has at most so many parts and setups, and so many leads of parts in all its setups together.
MOST_PARTS, MOST_SETUPS, MOST_CONNECTIONS = 1_500, 200, 15_000

# Where a part keeps the values that its doubtful bands leave open, and how many those may be.
MAYBE, MOST_MAYBE = "x-maybe", 8

TARGET_KEYS = ("setup", "quantity", "of", "across", "through", "into", "at", "step")


def read_sheet(document: Mapping[str, DocumentPlace]) -> Sheet:
    """The sheet of a document's members. Raises `DocumentError`; what it names is not checked yet."""
    places = dict(document["parts"].named(MOST_PARTS))
    halves = potentiometer.halves_of(places)
    parts: dict[str, Part] = {}
    for name, place in places.items():
        whole = name in halves
        parts |= potentiometer.two_parts(name, place) if whole else {name: _part(name, place)}
    setups = {name: _setup(name, place, parts, halves) for name, place in document["setups"].named(MOST_SETUPS)}
    if (total := sum(len(setup.connections) for setup in setups.values())) > MOST_CONNECTIONS:
        raise document["setups"].error(f"connect {total} parts in all; a document has at most {MOST_CONNECTIONS}")
    asked = [_asked(place, parts, halves, setups) for place in document["asked"].items()] if "asked" in document else []
    return Sheet(
        title=document["title"].line(),
        parts=parts,
        setups=setups,
        potentiometers=halves,
        asked=tuple(wish.target for wish in asked),
        waived=frozenset(wish.target.key for wish in asked if wish.waived),
        predicted=frozenset(wish.target.key for wish in asked if wish.predict),
        handout={wish.target.key: wish.handout for wish in asked if wish.handout != Handout()},
        judge=_judge(document["judge"]) if "judge" in document else Judge(),
        sealed=document["sealed"].boolean() if "sealed" in document else False,
        rounds=document["rounds"].index() if "rounds" in document else 1,
        sweeps={name: _sweep(name, place, parts, setups) for name, place in document["sweeps"].named()}
        if "sweeps" in document
        else {},
        compare=tuple(_comparison(place) for place in document["compare"].items()) if "compare" in document else (),
        groups=tuple(tuple(name.text() for name in place.items()) for place in document["groups"].items())
        if "groups" in document
        else (),
    )


def _sweep(name: str, place: DocumentPlace, parts: Mapping[str, Part], setups: Mapping[str, Setup]) -> Sweep:
    table = place.table(("setup", "volts", "amps"), ("source", "settings", "around_ammeter", "one_meter"))
    setup = table["setup"].text()
    source = table["source"].text() if "source" in table else _turned(table["setup"], parts, setups)
    volts = table["volts"].table(("across",), ("quantity", "at"))
    amps = table["amps"].table((), ("through", "into", "quantity", "at"))
    if ("through" in amps) == ("into" in amps):
        raise table["amps"].error("needs exactly one of 'through' and 'into'")
    through = amps["through"].text() if "through" in amps else _into(amps["into"], setup, parts, setups)
    if "quantity" in volts and volts["quantity"].member(Measurand) is not VOLTAGE:
        raise volts["quantity"].error("a line is drawn through volts")
    unit = parts[source].kind.unit if source in parts and parts[source].kind.is_source else VOLT
    settings = table["settings"].items(at_most=MOST_STEPS) if "settings" in table else ()
    return Sweep(
        name,
        setup,
        source,
        Across(VOLTAGE, volts["across"].pair(), setup, volts["at"].text() if "at" in volts else None),
        Through(through, setup, amps["at"].text() if "at" in amps else None),
        tuple(setting.number(unit) for setting in settings),
        _meters(table),
    )


def _meters(table: Mapping[str, DocumentPlace]) -> TableMeters:
    """The meters that a table is read with."""
    keys = {"around_ammeter": TableMeters.AROUND_AMMETER, "one_meter": TableMeters.ONE}
    said_so = [meters for key, meters in keys.items() if key in table and table[key].boolean()]
    if len(said_so) > 1:
        raise table["one_meter"].error("the voltmeter is not across the ammeter too where there is one meter")
    return said_so[0] if said_so else TableMeters.APART


def _turned(place: DocumentPlace, parts: Mapping[str, Part], setups: Mapping[str, Setup]) -> str:
    """The source that drives a table which names none: the only one, or the first."""
    setup = _known(place.text(), parts, setups)
    driving = setup.driving(parts) if setup else []
    if not driving:
        raise place.error("names no setup in which a source drives anything")
    return driving[0]


def _into(place: DocumentPlace, setup: str, parts: Mapping[str, Part], setups: Mapping[str, Setup]) -> str:
    """The part through which the current flows that enters at the first of two nodes."""
    nodes = place.pair()
    here = _known(setup, parts, setups)
    found = entering(here, parts, nodes) if here else None
    if found is None:
        raise place.error(f"no one part carries the current that enters at {nodes[0]}; say 'through' which it is read")
    if found.is_reversed:
        raise place.error(f"the current of {found.part} counts the other way; say 'through' it, with its sign")
    return found.part


def _known(name: str, parts: Mapping[str, Part], setups: Mapping[str, Setup]) -> Setup | None:
    """A setup with what it connects that is among the parts; what is not is said later, at its place."""
    setup = setups.get(name)
    return setup and replace(setup, connections={n: leads for n, leads in setup.connections.items() if n in parts})


def _comparison(place: DocumentPlace) -> Comparison:
    table = place.table(("rule", "setups"))
    return Comparison(table["rule"].member(Rule), tuple(setup.text() for setup in table["setups"].items()))


def sweep_tree(sweep: Sweep) -> dict[str, Any]:
    """A sweep as it stands in a document."""
    return {
        "setup": sweep.setup,
        "source": sweep.source,
        "volts": {"across": list(sweep.volts.nodes), **said(at=sweep.volts.at)},
        "amps": {"through": sweep.amps.part, **said(at=sweep.amps.at)},
        **said(
            settings=[setting.text for setting in sweep.settings],
            around_ammeter=sweep.around_ammeter or None,
            one_meter=sweep.meters is TableMeters.ONE or None,
        ),
    }


def comparison_tree(comparison: Comparison) -> dict[str, Any]:
    """Setups held against each other, as it stands in a document."""
    return {"rule": comparison.rule.value, "setups": list(comparison.setups)}


def target_tree(target: Target) -> dict[str, Any]:
    """A target as it stands in a document."""
    if target.is_leads:
        return {"of": LEADS}
    if target.is_part_alone:
        return said(setup=target.setup, of=target.part)
    if target.is_across:
        place: dict[str, Any] = {"quantity": target.measurand.value, "across": list(target.nodes)}
    else:
        place = {"quantity": CURRENT.value, "through": target.part}
    return {"setup": target.setup, **place, **said(at=target.at, step=target.step)}


def part_tree(part: Part) -> dict[str, Any]:
    """A part as it stands in a document."""
    return {
        "kind": part.kind.word,
        **said(
            **{stated.key: text_of(part.stated(stated.name)) for stated in _plain_fields(part.kind)},
            adjustable=part.adjustable or None,
            source=part.source.value if part.source else None,
            **{MAYBE: list(part.maybe), LIMIT.key: text_of(part.limit)},
        ),
    }


def setup_tree(setup: Setup, whole: Mapping[str, tuple[list[str], str | None]]) -> dict[str, Any]:
    """A setup as it stands in a document, with the leads and the settings of its `whole` potentiometers."""
    set_to = {name: value for name, (_, value) in whole.items() if value}
    return {
        "reference": setup.reference,
        "connections": {
            **{part: list(leads) for part, leads in setup.connections.items()},
            **{name: leads for name, (leads, _) in whole.items()},
        },
        **said(
            sources_off=sorted(setup.sources_off),
            open=sorted(setup.open),
            temperature=text_of(setup.temperature),
            label=setup.label or None,
            line=setup.line or None,
            values={**{name: value.text for name, value in setup.values.items()}, **set_to},
        ),
    }


def judge_tree(judge: Judge) -> dict[str, Any]:
    """What judges, as it stands in a document."""
    meter_in = said(meter_in=judge.meter_in or None)
    return {"by": judge.by.value, "limit": judge.limit.text, "against": judge.against.value, **meter_in}


def read_target(
    place: DocumentPlace,
    table: Mapping[str, DocumentPlace],
    parts: Mapping[str, Part],
    halves: Halves,
    setups: Mapping[str, Setup],
) -> Target:
    """A target out of the members of a reading, a claim or a wish; of a potentiometer its lower part."""
    named = [key for key in ("of", "across", "through", "into") if key in table]
    if len(named) != 1:
        raise place.error("needs exactly one of 'of', 'across' and 'through', or in a row of a sweep 'into'")
    setup = table["setup"].text() if "setup" in table else None
    measurand = table["quantity"].member(Measurand) if "quantity" in table else None
    at = table["at"].text() if "at" in table else None
    step = table["step"].index() if "step" in table else None
    if named == ["of"] and step is not None:
        raise table["step"].error("a part by itself is read in no row of a sweep")
    if named == ["of"]:
        if at is not None:
            raise table["at"].error("a part by itself is read at its own leads")
        return _alone(place, _lower(table["of"].text(), halves), measurand, setup, parts)
    if named == ["across"] and measurand is None:
        raise DocumentError(f"{place.path}.quantity: is missing; say voltage or resistance")
    if setup is None:
        raise DocumentError(f"{place.path}.setup: say in which setup this was read")
    if named == ["across"]:
        return Across(measurand or RESISTANCE, table["across"].pair(), setup, at, step)
    if measurand not in (None, CURRENT):
        raise DocumentError(f"{place.path}.quantity: through a part only a current is read")
    if named == ["into"]:
        if step is None:
            raise table["into"].error("is read in a row of a sweep only; say 'through' which part")
        return Through(_into(table["into"], setup, parts, setups), setup, at, step)
    return Through(_lower(table["through"].text(), halves), setup, at, step)


def _lower(name: str, halves: Halves) -> str:
    return halves[name][1] if name in halves else name


def _alone(
    place: DocumentPlace, name: str, measurand: Measurand | None, setup: str | None, parts: Mapping[str, Part]
) -> PartAlone | TouchedLeads:
    if name != LEADS or LEADS in parts:
        implied = parts[name].kind.measured_as if name in parts else RESISTANCE
        return PartAlone(name, measurand or implied, setup)
    if measurand not in (None, RESISTANCE):
        raise DocumentError(f"{place.path}.quantity: touched leads are read as a resistance")
    if setup is not None:
        raise DocumentError(f"{place.path}.setup: touched leads are read by themselves, in no setup")
    return TouchedLeads()


def text_of(quantity: Quantity | None) -> str | None:
    """A quantity as it was typed."""
    return quantity.text if quantity else None


def _part(name: str, place: DocumentPlace) -> Part:
    kind = kind_called(place.member_called("kind").choice(*KINDS, potentiometer.WORD))
    fields = _plain_fields(kind)
    table = place.table(("kind",), (*(stated.key for stated in fields), "adjustable", "source"))
    quantities = {
        stated.name: table[stated.key].percentage() if stated.unit == PERCENT else table[stated.key].number(stated.unit)
        for stated in fields
        if stated.key in table
    }
    return Part(
        name=name,
        kind=kind,
        adjustable=table["adjustable"].boolean() if "adjustable" in table else False,
        source=table["source"].member(SourceType) if "source" in table else None,
        maybe=_maybe(place),
        limit=_limit(place),
        **quantities,
    )


def _plain_fields(kind: Kind) -> list[Stated]:
    """What is stated of a kind, but for what is kept under a key that other programs need not know."""
    return [stated for stated in kind.documented if not stated.key.startswith("x-")]


def _limit(place: DocumentPlace) -> Quantity | None:
    """The current limit that is set on a source; what another program wrote there says nothing to this one."""
    kept = place.extensions().get(LIMIT.key)
    try:
        return positive(kept, AMPERE) if isinstance(kept, str) else None
    except Refused:
        return None


def _maybe(place: DocumentPlace) -> tuple[str, ...]:
    """The values that doubtful bands leave open; what another program wrote there says nothing to this one."""
    kept = place.extensions().get(MAYBE)
    if not isinstance(kept, list) or not 2 <= len(kept) <= MOST_MAYBE:
        return ()
    try:
        known = [read_part(text) for text in kept if isinstance(text, str)]
    except Refused:
        return ()
    return tuple(kept) if len(known) == len(kept) and all(part.nominal for part in known) else ()


def _setup(name: str, place: DocumentPlace, parts: Mapping[str, Part], halves: Halves) -> Setup:
    table = place.table(("reference", "connections"), ("sources_off", "values", "open", "temperature", "label", "line"))
    values: dict[str, Quantity] = {}
    for part_name, value in table["values"].named() if "values" in table else []:
        if part_name in halves:
            whole = parts[halves[part_name][1]].nominal or value.number(OHM)
            values |= potentiometer.settings(part_name, value, whole)
            continue
        values[part_name] = value.number(parts[part_name].kind.unit) if part_name in parts else value.quantity(None)
    off = table["sources_off"].items() if "sources_off" in table else ()
    connections: dict[str, Leads] = {}
    for part, leads in table["connections"].named():
        here = potentiometer.connected(halves[part], leads) if part in halves else {part: leads.pair()}
        connections |= here
    return Setup(
        name=name,
        reference=table["reference"].name(),
        connections=connections,
        sources_off=frozenset(source.text() for source in off),
        values=values,
        open=frozenset(switch.text() for switch in table["open"].items()) if "open" in table else frozenset(),
        temperature=table["temperature"].number(CELSIUS) if "temperature" in table else None,
        label=table["label"].name() if "label" in table else "",
        line=table["line"].prose() if "line" in table else "",
    )


def _judge(place: DocumentPlace) -> Judge:
    table = place.table((), ("by", "limit", "against", "meter_in"))
    default = Judge()
    return Judge(
        by=table["by"].member(JudgedBy) if "by" in table else default.by,
        limit=table["limit"].percentage() if "limit" in table else default.limit,
        against=table["against"].member(Basis) if "against" in table else default.against,
        meter_in=table["meter_in"].boolean() if "meter_in" in table else default.meter_in,
    )


class _Wish(NamedTuple):
    """What is asked for; left out on purpose, predicted first, and what a handout says beside it."""

    target: Target
    waived: bool
    predict: bool
    handout: Handout


def _asked(place: DocumentPlace, parts: Mapping[str, Part], halves: Halves, setups: Mapping[str, Setup]) -> _Wish:
    table = place.table((), (*TARGET_KEYS, "waived", "predict", "label", "photo", "hold"))
    waived, predict, photo, hold = (
        name in table and table[name].boolean() for name in ("waived", "predict", "photo", "hold")
    )
    handout = Handout(table["label"].name() if "label" in table else "", photo, hold)
    return _Wish(read_target(place, table, parts, halves, setups), waived, predict, handout)


def handout_tree(handout: Handout | None) -> dict[str, Any]:
    """What a handout says beside a measurement, as it stands in a document."""
    if handout is None:
        return {}
    return said(label=handout.label or None, photo=handout.photo or None, hold=handout.hold or None)
