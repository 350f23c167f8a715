"""Notes and conclusions: plain text with light markup, made into HTML in which nothing runs."""

import nh3
from django.utils.safestring import SafeString, mark_safe
from markdown_it import MarkdownIt

# Paragraphs, lists, emphasis and tables; no pictures, no links out of the page, no HTML of the writer's own.
_TAGS = {"p", "br", "em", "strong", "code", "pre", "ul", "ol", "li", "blockquote", "h3", "h4", "table", "thead",
         "tbody", "tr", "th", "td", "hr"}  # fmt: skip
_MARKUP = (
    MarkdownIt("commonmark", {"html": False, "breaks": True}).enable("table").disable(["image", "link", "autolink"])
)


def rendered(text: str) -> SafeString:
    """The text as HTML.

    Examples
    --------
    >>> rendered("The drops **add up**. <script>")
    '<p>The drops <strong>add up</strong>. &lt;script&gt;</p>\\n'
    """
    return mark_safe(nh3.clean(_MARKUP.render(text), tags=_TAGS, attributes={}))  # noqa: S308 (cleaned)
