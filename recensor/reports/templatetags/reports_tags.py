"""Template filters of reports."""

from django import template
from django.utils.safestring import SafeString

from recensor.reports.content import Report
from recensor.reports.prose import rendered

register = template.Library()


@register.filter
def prose(text: str) -> SafeString:
    """Notes or a conclusion with their light markup."""
    return rendered(text)


@register.filter
def conclusion(report: Report) -> SafeString:
    """A report's conclusion, with what was left as suggested marked in it."""
    return rendered(report.conclusion, report.suggested)


@register.filter
def has_section(report: Report, section: str) -> bool:
    """Whether a section was chosen."""
    return report.has(section)
