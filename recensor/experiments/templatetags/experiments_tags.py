"""Template tags of the editor."""

from urllib.parse import urlencode

from django import template
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from recensor.experiments import acts
from recensor.experiments.acts import EditorForm
from recensor.experiments.editor_page import Editor, Refusal

register = template.Library()


@register.simple_tag(takes_context=True)
def editor_link(
    context: template.Context,
    setup: str,
    part: str | None,
    shown: str,
    text: str,
    is_current: str = "",
    classes: str = "",
) -> SafeString:
    """A link to a state of the editor, which only exchanges the editor where scripts run."""
    editor = context["editor"]
    asked = {"setup": setup, "part": part or "", "show": shown}
    address = f"{context['address']}?{urlencode({key: value for key, value in asked.items() if value})}"
    current = is_current == editor.setup if is_current else text in (editor.shown, editor.chosen and editor.chosen.name)
    return format_html(
        '<a class="{0}" href="{1}" hx-get="{1}"{2}>{3}</a>',
        classes,
        address,
        mark_safe(' aria-current="true"') if current else "",
        text,
    )


@register.simple_tag(takes_context=True)
def typed(context: template.Context, of: str, name: str, stands: str = "") -> str:
    """What was typed into a field of a form, or for an act, that was refused; else what stands there."""
    refusal: Refusal | None = context.get("refusal")
    return refusal.typed.get(name, "") if refusal and of in (refusal.place, refusal.act) else stands


@register.simple_block_tag(takes_context=True)
def edit_form(context: template.Context, content: str, place: str = "", classes: str = "") -> SafeString:
    """A form of the editor: it says where the editor stands, and at its end why what was asked for was refused."""
    editor: Editor = context["editor"]
    refusal: Refusal | None = context.get("refusal")
    why = refusal.message if refusal and place and refusal.place == place else ""
    stands = {
        "csrfmiddlewaretoken": context.get("csrf_token", ""),
        "setup": editor.setup,
        "part": editor.chosen.name if editor.chosen else "",
        "show": editor.shown,
    }
    return format_html(
        '<form method="post" class="{}" hx-post="{}" novalidate autocomplete="off">{}{}{}</form>',
        classes,
        context["address"],
        format_html_join("", '<input type="hidden" name="{}" value="{}">', stands.items()),
        content,
        format_html('<p class="field-error" role="alert">{}</p>', why) if why else "",
    )


@register.simple_tag
def act_buttons(place: str, editor: Editor, main: str = "") -> SafeString:
    """The buttons of one of the editor's forms, each with its key; `main` is the act that Enter takes."""
    buttons = []
    for act, words in acts.offered(EditorForm(place), editor.standing):
        key = format_html(" <kbd>{}</kbd>", "Del" if act.key == "Delete" else act.key) if act.key else ""
        data = format_html(' data-key="{}"', act.key) if act.key else ""
        look = "btn-primary" if act.name == main else "btn-outline-primary"
        buttons.append((act.name, look, data, words, key))
    return format_html_join("\n", '<button type="submit" name="act" value="{}" class="btn {}"{}>{}{}</button>', buttons)
