"""Reports on paper: one HTML file that needs nothing else, and PDF by WeasyPrint out of the same."""

import atexit
import base64
import re
from functools import cache

from django.template.loader import render_to_string

from recensor.drawing.conventions import Conventions
from recensor.reports.content import Report
from recensor.reports.styles import found, page_styles, svg_styles

# The fonts by family. Each file has a family of its own: what sets a PDF knows one file for each.
_FONTS = {
    "Commissioner": "commissioner/commissioner-latin-wght-normal.woff2",
    "Commissioner Greek": "commissioner/commissioner-greek-wght-normal.woff2",
    "JetBrains Mono": "jetbrains-mono/jetbrains-mono-latin-wght-normal.woff2",
    "JetBrains Mono Greek": "jetbrains-mono/jetbrains-mono-greek-wght-normal.woff2",
    "STIX Two Math": "stix-two-math/stix-two-math-latin-400-normal.woff2",
}

_SVG = re.compile(r"<svg [^>]*>")


@cache
def _faces() -> str:
    """The fonts that ship with the program, inside a style sheet."""
    faces = []
    for family, file in _FONTS.items():
        content = base64.b64encode(found(f"vendor/{file}").read_bytes()).decode()
        weights = "" if "Math" in family else "font-weight:100 900;"
        faces.append(f'@font-face{{font-family:"{family}";{weights}src:url(data:font/woff2;base64,{content})}}')
    return "".join(faces)


def standing_alone(svg: str) -> str:
    """Drawings with their styles inside, as they need them outside a page."""
    style = f"<style>{svg_styles()}</style>"
    return _SVG.sub(lambda match: match[0] + style, svg)


def as_html(report: Report, conventions: Conventions) -> str:
    """A report as one file, with the fonts inside."""
    return page_of(report.title, _body(report, conventions), conventions, _faces())


def as_pdf(report: Report, conventions: Conventions) -> bytes:
    """A report as PDF."""
    return to_pdf(page_of(report.title, _body(report, conventions), conventions))


def _body(report: Report, conventions: Conventions) -> str:
    return render_to_string("reports/_report.html", {"report": report, "conventions": conventions})


def page_of(title: str, body: str, conventions: Conventions, faces: str = "") -> str:
    """A page that needs no other file, but for `faces`, which PDF has by itself."""
    styles = page_styles(letter=conventions.letter)
    context = {"title": title, "styles": faces + styles, "body": standing_alone(body)}
    return render_to_string("reports/alone.html", context)


class _Printer:
    """WeasyPrint with our fonts. It takes a second to load, and unpacking the fonts longer than a page."""

    def __init__(self) -> None:
        import weasyprint
        from PIL import ImageFile
        from weasyprint.text.fonts import FontConfiguration
        from weasyprint.urls import URLFetcher

        atexit.register(_printer.cache_clear)  # its fonts go before what they are made of does
        # WeasyPrint takes pictures that were cut off, and says so to Pillow for everybody; nobody else here does.
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        self._html = weasyprint.HTML
        self._fetcher = URLFetcher(allowed_protocols=("data",))
        self._fonts = FontConfiguration()
        self._faces = weasyprint.CSS(string=_faces(), font_config=self._fonts, url_fetcher=self._fetcher)

    def written(self, page: str) -> bytes:
        html = self._html(string=page, url_fetcher=self._fetcher, media_type="print")
        pdf: bytes = html.write_pdf(stylesheets=[self._faces], font_config=self._fonts, pdf_variant="pdf/ua-1")
        return pdf


@cache
def _printer() -> _Printer:
    """The printer of this process: only whoever prints loads it."""
    return _Printer()


def to_pdf(page: str) -> bytes:
    """Such a page as PDF, tagged for readers; nothing is fetched."""
    return _printer().written(page)
