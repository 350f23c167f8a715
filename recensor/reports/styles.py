"""The site's style sheets for what stands alone: with values in place of tokens, which no other program knows."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache
from pathlib import Path

import tinycss2
from django.contrib.staticfiles.finders import find
from tinycss2.ast import Declaration, FunctionBlock, IdentToken, Node, QualifiedRule

_TOKENS = "css/base/tokens.css"
_DRAWN = ("css/components/drawing.css", "css/components/board.css")
_PRINTED = ("css/components/verdicts.css", "css/pages/report.css")

_STACKS = {
    "face": '"Commissioner", "Commissioner Greek", "STIX Two Math", sans-serif',
    "figures": '"JetBrains Mono", "JetBrains Mono Greek", "STIX Two Math", monospace',
}

# What says where a drawing stands on a page, and how it is pressed there.
_OF_PAGES = ("display", "width", "height", "max-", "margin", "cursor", "touch-action", "pointer-events")

# The paper as the style sheet has it, and the other one.
_A4, _LETTER = "a4", "letter"

_PAPER, _CURRENT = "ffffff", "currentcolor"
_CLOSES = {"{": "}", "(": ")", "[": "]"}


def found(name: str) -> Path:
    """A file that ships with the site. Raises FileNotFoundError."""
    path = find(name)
    if not isinstance(path, str):
        raise FileNotFoundError(name)
    return Path(path)


@cache
def svg_styles() -> str:
    """The styles of all drawings, with nothing in them that a viewer of drawings alone does not know.

    Colours by their values instead of by tokens, fonts by their parts; what only a page does is left out.
    """
    return "".join(
        f"{selector}{{{';'.join(drawn)}}}"
        for rule in _rules(_DRAWN)
        if ":hover" not in (selector := tinycss2.serialize(rule.prelude).strip()) and (drawn := list(_drawn(rule)))
    )


@cache
def page_styles(*, letter: bool) -> str:
    """The styles of a report's page, on A4 or on letter paper."""
    sheet = _resolved(tinycss2.parse_component_value_list("".join(map(_read, _PRINTED))), _tokens())
    return sheet.replace(f"size: {_A4};", f"size: {_LETTER};") if letter else sheet


def _drawn(rule: QualifiedRule) -> Iterator[str]:
    """The declarations of a rule that are about the drawing itself; a colour of its own, of a band or a net, fills."""
    declarations, tokens = _declarations(rule), {**_tokens(), _CURRENT: _tokens()["ink"]}
    own = [one for one in declarations if one.name.startswith("--")]
    if own:
        yield f"fill:{_resolved(own[0].value, tokens).strip()}"
        return
    for one in declarations:
        value = _resolved(one.value, tokens).strip()
        if one.name.startswith(_OF_PAGES) or "color-mix" in value:
            continue
        if one.name == "font":
            weight, size, family = value.split(" ", 2)
            yield from (f"font-weight:{weight}", f"font-size:{size}", f"font-family:{family}")
        else:
            yield f"{one.name}:{value}"


def _read(name: str) -> str:
    return found(name).read_text(encoding="utf-8")


def _rules(names: Iterable[str]) -> Iterator[QualifiedRule]:
    """The plain rules of style sheets, without those that hold only for some screens."""
    for name in names:
        for node in tinycss2.parse_stylesheet(_read(name), skip_comments=True, skip_whitespace=True):
            if isinstance(node, QualifiedRule):
                yield node


def _declarations(rule: QualifiedRule) -> list[Declaration]:
    nodes = tinycss2.parse_blocks_contents(rule.content, skip_comments=True, skip_whitespace=True)
    return [node for node in nodes if isinstance(node, Declaration)]


@cache
def _tokens() -> Mapping[str, str]:
    """The light tokens: the first of each name; in place of a family its fonts with all that is printed."""
    tokens: dict[str, str] = {}
    for node in tinycss2.parse_stylesheet(_read(_TOKENS), skip_comments=True, skip_whitespace=True):
        for declaration in _declarations(node) if isinstance(node, QualifiedRule) else ():
            if declaration.name.startswith("--"):
                tokens.setdefault(declaration.name[2:], tinycss2.serialize(declaration.value).strip())
    return {**tokens, **_STACKS}


def _resolved(nodes: Sequence[Node], tokens: Mapping[str, str]) -> str:
    """Component values as text, tokens by their values, and colours that are mixed by what they come to."""
    return "".join(_value(node, tokens) for node in nodes)


def _value(node: Node, tokens: Mapping[str, str]) -> str:
    if isinstance(node, IdentToken) and node.lower_value == _CURRENT:
        return tokens.get(_CURRENT, node.value)
    if isinstance(node, FunctionBlock):
        if node.lower_name == "var":
            name = next(part for part in node.arguments if isinstance(part, IdentToken)).value
            return _resolved(tinycss2.parse_component_value_list(tokens.get(name[2:], "none")), tokens)
        inside = _resolved(node.arguments, tokens)
        return (_mixed(inside) if node.lower_name == "color-mix" else None) or f"{node.name}({inside})"
    content = getattr(node, "content", None)
    if isinstance(content, list) and node.type.endswith("block"):
        return f"{node.type[0]}{_resolved(content, tokens)}{_CLOSES[node.type[0]]}"
    return str(node.serialize())


def _mixed(arguments: str) -> str | None:
    """Two colours mixed in sRGB, as ``in srgb, #336699 40%, transparent``; what is transparent lies on white paper."""
    _, first, second = (part.split() for part in arguments.split(","))
    if len(first) != 2 or not first[0].startswith("#"):
        return None
    if second[0] != "transparent" and not second[0].startswith("#"):
        return None
    share = float(first[1].rstrip("%")) / 100
    pair = first[0][1:], _PAPER if second[0] == "transparent" else second[0][1:]
    channels = ((int(pair[0][k : k + 2], 16), int(pair[1][k : k + 2], 16)) for k in (0, 2, 4))
    return "#" + "".join(f"{round(share * a + (1 - share) * b):02x}" for a, b in channels)
