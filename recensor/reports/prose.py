"""Notes and conclusions: plain text with light markup, made into HTML in which nothing runs."""

from collections.abc import Iterable

import nh3
from django.utils.safestring import SafeString, mark_safe
from markdown_it import MarkdownIt
from markdown_it.rules_block import StateBlock
from markdown_it.rules_block.table import table

# Paragraphs, lists, emphasis and tables; no pictures, no links out of the page, no HTML of the writer's own.
_TAGS = {"p", "br", "em", "strong", "code", "pre", "ul", "ol", "li", "blockquote", "h3", "h4", "table", "thead",
         "tbody", "tr", "th", "td", "hr"}  # fmt: skip

# The columns of a table, and the cells of all tables of one text: what a page has room for. Beyond them it stays text,
# since a short row is filled up to the width of its table, and paper takes its time for every cell.
MOST_COLUMNS, MOST_CELLS = 12, 2_400
_COUNTED = "cells"


def _small_table(state: StateBlock, start: int, end: int, silent: bool) -> bool:
    """Markdown's rule for tables, for those that keep within the limits."""
    bars = state.getLines(start, start + 1, state.blkIndent, False).count("|")
    if not 0 < bars <= MOST_COLUMNS + 1 or start + 1 >= end:
        return False
    if set(state.getLines(start + 1, start + 2, state.blkIndent, False)) - set("|-: \t\n"):
        return False  # no line under the names, so no table
    most = MOST_CELLS - state.env.get(_COUNTED, 0)
    rows = next((k for k in range(start, min(end, start + most)) if state.isEmpty(k)), end) - start
    cells = state.env.get(_COUNTED, 0) + bars * rows
    if cells > MOST_CELLS or not table(state, start, end, silent):
        return False
    state.env[_COUNTED] = cells
    return True


_MARKUP = (
    MarkdownIt("commonmark", {"html": False, "breaks": True}).enable("table").disable(["image", "link", "autolink"])
)
_MARKUP.block.ruler.at("table", _small_table, {"alt": ["paragraph", "reference"]})


# Stand around what is marked while the rest is made HTML; no keyboard types them.
_OPENS, _CLOSES = "\ue000", "\ue001"


def rendered(text: str, marked: Iterable[str] = ()) -> SafeString:
    """The text as HTML, with some of its sentences marked.

    Examples
    --------
    >>> rendered("The drops **add up**. <script>")
    '<p>The drops <strong>add up</strong>. &lt;script&gt;</p>\\n'
    """
    text = text.replace(_OPENS, "").replace(_CLOSES, "")
    for sentence in marked:
        text = text.replace(sentence, f"{_OPENS}{sentence}{_CLOSES}")
    cleaned = nh3.clean(_MARKUP.render(text), tags=_TAGS, attributes={})
    return mark_safe(cleaned.replace(_OPENS, "<mark>").replace(_CLOSES, "</mark>"))  # noqa: S308 (cleaned)
