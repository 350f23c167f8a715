"""What templates show of a person's instruments."""

from django import template

from recensor.meters.queries import names_of

register = template.Library()


@register.inclusion_tag("meters/_names.html", takes_context=True)
def meter_names(context: template.Context) -> dict[str, list[str]]:
    """A list of the person's instruments, for fields in which one is named."""
    return {"names": names_of(context["request"].user)}
