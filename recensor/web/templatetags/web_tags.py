"""Template tags that every app uses: slots, marks and items."""

import uuid
from collections.abc import Sequence

from django import template
from django.conf import settings
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from recensor.ledger.marks import Mark
from recensor.web import slots

register = template.Library()


@register.simple_tag(takes_context=True)
def slot(context: template.Context, name: str) -> SafeString:
    """What the apps above put into this place."""
    if context.template is None:
        return mark_safe("")
    parts = []
    for filling in slots.fillings(name):
        with context.push(**filling.context()):
            parts.append(context.template.engine.get_template(filling.template).render(context))
    return mark_safe("".join(parts))  # noqa: S308 (templates escape what they show)


@register.simple_tag
def retry_after() -> int:
    """After how many milliseconds a page sends again what was not acknowledged."""
    return settings.OUTBOX_RETRY_MILLISECONDS


@register.simple_tag
def fresh_key() -> str:
    """A key for a form, which makes sending it twice harmless."""
    return str(uuid.uuid4())


@register.simple_tag
def verdict(mark: Mark, word: str = "") -> SafeString:
    """A verdict's mark with its word, or with another in its place. A tag, since a page has many."""
    title = format_html(' title="{}"', mark.reason) if mark.reason else ""
    return format_html(
        '<span class="verdict verdict-{}"{}><b aria-hidden="true">{}</b> <span class="verdict-word">{}</span></span>',
        mark.kind, title, mark.sign, word or mark.word,
    )  # fmt: skip


@register.filter
def item(items: Sequence[object], index: int) -> object:
    """The item at an index."""
    return items[index]
