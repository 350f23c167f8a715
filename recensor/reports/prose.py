"""Notes and conclusions: plain text with light markup, made into HTML in which nothing runs."""

from collections.abc import Iterable

import nh3
from django.utils.safestring import SafeString, mark_safe
from markdown_it import MarkdownIt

# Paragraphs, lists, emphasis and tables; no pictures, no links out of the page, no HTML of the writer's own.
_TAGS = {"p", "br", "em", "strong", "code", "pre", "ul", "ol", "li", "blockquote", "h3", "h4", "table", "thead",
         "tbody", "tr", "th", "td", "hr"}  # fmt: skip
_MARKUP = (
    MarkdownIt("commonmark", {"html": False, "breaks": True}).enable("table").disable(["image", "link", "autolink"])
)


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
