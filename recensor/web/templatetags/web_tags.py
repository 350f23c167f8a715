"""Template tags that every app uses: slots, marks and items."""

import uuid

from django import template
from django.conf import settings
from django.urls import reverse
from django.utils.html import format_html, format_html_join
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


@register.simple_block_tag(takes_context=True)
def act(
    context: template.Context,
    content: str,
    view: str,
    *args: object,
    key: object = None,
    at: str = "",
    plain: bool = False,
    **attributes: str,
) -> SafeString:
    """A form that does one thing: posted to a view, by htmx unless it is `plain`.

    With the token, the `key` that makes sending it twice harmless, and the measurement that the page stands `at`.
    Underscores in the names of `attributes` are hyphens.
    """
    address = reverse(view, args=args)
    hidden = {"csrfmiddlewaretoken": context.get("csrf_token"), "key": key, "measurement": at}
    inputs = ((name, value) for name, value in hidden.items() if value)
    return format_html(
        '<form method="post" action="{}"{}{}>{}{}</form>',
        address,
        "" if plain else format_html(' hx-post="{}"', address),
        format_html_join("", ' {}="{}"', ((name.replace("_", "-"), value) for name, value in attributes.items())),
        format_html_join("", '<input type="hidden" name="{}" value="{}">', inputs),
        content,
    )
