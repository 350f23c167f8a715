"""Formulas as MathML. Every function takes and gives markup; names and texts are escaped where they enter."""

import re
from html import escape


class Markup(str):
    """Markup that stands as it is in a page: every name and text in it was escaped where it entered."""

    __slots__ = ()

    def __html__(self) -> str:
        return self


_SUBSCRIPTED = re.compile(r"([A-Za-z])(.+)")


def name(text: str) -> str:
    """A symbol; what follows its first letter is its index: ``R12`` is R with the index 12."""
    match = _SUBSCRIPTED.fullmatch(text)
    if not match:
        return f'<mi mathvariant="normal">{escape(text)}</mi>'
    return indexed(match[1], match[2])


def indexed(letter: str, index: str) -> str:
    """A letter with an index."""
    return f'<msub><mi mathvariant="normal">{escape(letter)}</mi><mtext>{escape(index)}</mtext></msub>'


def quantity(text: str) -> str:
    """A number with its unit, as in ``1.32 kΩ``, kept together."""
    return f"<mn>{escape(text)}</mn>".replace(" ", "\u202f")


def number(text: str) -> str:
    """A plain number."""
    return f"<mn>{escape(text)}</mn>"


def fraction(above: str, below: str) -> str:
    """One over the other."""
    return f"<mfrac><mrow>{above}</mrow><mrow>{below}</mrow></mfrac>"


def joined(sign: str, *members: str) -> str:
    """Members with a sign between them."""
    return f"<mrow>{f'<mo>{sign}</mo>'.join(members)}</mrow>"


def signed_sum(members: list[tuple[int, str]]) -> str:
    """A sum whose members carry their signs, 1 or −1."""
    first = True
    out = []
    for sign, member in members:
        if sign < 0:
            out.append("<mo>−</mo>")
        elif not first:
            out.append("<mo>+</mo>")
        out.append(member)
        first = False
    return f"<mrow>{''.join(out) or '<mn>0</mn>'}</mrow>"


def in_brackets(member: str) -> str:
    """A member in parentheses."""
    return f"<mrow><mo>(</mo>{member}<mo>)</mo></mrow>"


def formula(*sides: str) -> Markup:
    """A displayed line of sides that are equal."""
    return Markup(f'<math display="block">{joined("=", *sides)}</math>')
