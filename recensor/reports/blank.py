"""A blank data sheet: an experiment on paper, with a numbered line for each reading that it asks for."""

from dataclasses import dataclass

from django.template.loader import render_to_string

from recensor.core import plan
from recensor.core.circuit import Sheet
from recensor.core.figures import as_read
from recensor.core.plan import Order
from recensor.drawing.conventions import Conventions
from recensor.reports.printing import page_of, to_pdf
from recensor.web.drawings import of_setup


@dataclass(frozen=True)
class BlankLine:
    """One reading to take: its number, what it is, and the unit."""

    number: int
    title: str
    unit: str


@dataclass(frozen=True)
class Block:
    """The lines of one setup, with its drawing; those of parts by themselves have none."""

    setup: str
    drawing: str
    lines: tuple[BlankLine, ...]


@dataclass(frozen=True)
class BlankSheet:
    """What stands on the sheet: values that are stated, and places for those that are read."""

    title: str
    aim: str
    parts: tuple[tuple[str, str, str], ...]
    blocks: tuple[Block, ...]


def blank_sheet(sheet: Sheet, aim: str, order: Order, conventions: Conventions) -> BlankSheet:
    """The sheet of an experiment, its lines in the order in which the bench asks for them."""
    blocks: dict[str, list[BlankLine]] = {}
    setup = ""
    for number, k in enumerate(plan.in_order(sheet.asked, sheet, order), 1):
        target = sheet.asked[k]
        setup = target.setup or setup  # what is read by itself in between stays where the bench is
        blocks.setdefault(setup, []).append(BlankLine(number, plan.title(target, sheet), target.unit))
    parts = tuple(
        (name, part.kind.word, as_read(part.nominal, part.kind.unit) if part.nominal else "not marked")
        for name, part in sheet.parts.items()
    )
    return BlankSheet(sheet.title, aim, parts, tuple(_block(sheet, *block, conventions) for block in blocks.items()))


def _block(sheet: Sheet, setup: str, lines: list[BlankLine], conventions: Conventions) -> Block:
    drawing = of_setup(sheet, sheet.setups[setup], conventions) if setup else ""
    return Block(setup if sheet.several else "", drawing, tuple(lines))


def as_pdf(blank: BlankSheet, conventions: Conventions) -> bytes:
    """The sheet on paper."""
    return to_pdf(page_of(blank.title, render_to_string("reports/_blank.html", {"blank": blank}), conventions))
