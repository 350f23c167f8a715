"""Reports on paper: one HTML file that needs nothing else, and PDF by WeasyPrint out of the same."""

import base64
import re
from functools import cache
from pathlib import Path

from django.contrib.staticfiles.finders import find
from django.template.loader import render_to_string
from PIL import ImageFile
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher

from recensor.drawing.conventions import Conventions
from recensor.reports.content import Report

# WeasyPrint takes pictures that were cut off, and says so to Pillow for everybody; nobody else here does.
ImageFile.LOAD_TRUNCATED_IMAGES = False

_FETCHER = URLFetcher(allowed_protocols=("data",))

_TOKENS = "css/base/tokens.css"
_DRAWN = ("css/components/drawing.css", "css/components/board.css")
_PRINTED = ("css/components/verdicts.css", "css/pages/report.css")

# The fonts by family. Each file has a family of its own: what sets a PDF knows one file for each.
_FONTS = {
    "Commissioner": "commissioner/commissioner-latin-wght-normal.woff2",
    "Commissioner Greek": "commissioner/commissioner-greek-wght-normal.woff2",
    "JetBrains Mono": "jetbrains-mono/jetbrains-mono-latin-wght-normal.woff2",
    "JetBrains Mono Greek": "jetbrains-mono/jetbrains-mono-greek-wght-normal.woff2",
    "STIX Two Math": "stix-two-math/stix-two-math-latin-400-normal.woff2",
}
_STACKS = {
    "face": '"Commissioner", "Commissioner Greek", "STIX Two Math", sans-serif',
    "figures": '"JetBrains Mono", "JetBrains Mono Greek", "STIX Two Math", monospace',
}

# The paper as the style sheet has it, and the other one.
_A4, _LETTER = "size: a4;", "size: letter;"

# What says where a drawing stands on a page, and how it is pressed there.
_OF_PAGES = ("display", "width", "height", "max-", "margin", "cursor", "touch-action", "pointer-events")

_TOKEN = re.compile(r"--([a-z-]+):\s*([^;}]+)[;}]")
_USE = re.compile(r"var\(--([a-z-]+)\)")
_MIX = re.compile(r"color-mix\(in srgb, #([0-9a-f]{6}) (\d+)%, (?:#([0-9a-f]{6})|transparent)\)")
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_FONT = re.compile(r"font:\s*(\d+) (\d+px) ([^;]+);?")
_SVG = re.compile(r"<svg [^>]*>")


def _found(name: str) -> Path:
    text = find(name)
    if not isinstance(text, str):
        raise FileNotFoundError(name)
    return Path(text)


def _read(name: str) -> str:
    return _found(name).read_text()


@cache
def _faces() -> str:
    """The fonts that ship with the program, inside a style sheet."""
    faces = []
    for family, file in _FONTS.items():
        content = base64.b64encode(_found(f"vendor/{file}").read_bytes()).decode()
        weights = "" if "Math" in family else "font-weight:100 900;"
        faces.append(f'@font-face{{font-family:"{family}";{weights}src:url(data:font/woff2;base64,{content})}}')
    return "".join(faces)


@cache
def _tokens() -> dict[str, str]:
    """The light tokens: the first of each name."""
    found: dict[str, str] = {}
    for name, value in _TOKEN.findall(_read(_TOKENS)):
        found.setdefault(name, value.strip())
    return {**found, **_STACKS}


@cache
def svg_styles() -> str:
    """The styles of all drawings, with nothing in them that a viewer of drawings alone does not know.

    Colours by their values instead of by tokens, fonts by their parts; what only a page does is left out.
    """
    rules = []
    for selector, body in _RULE.findall(re.sub(r"/\*.*?\*/", "", "".join(map(_read, _DRAWN)), flags=re.DOTALL)):
        own = dict(_TOKEN.findall(f"{body}}}"))
        if own:  # a band's or a net's own colour
            rules.append(f"{selector.strip()}{{fill:{next(iter(own.values()))}}}")
            continue
        text = _USE.sub(lambda match: _tokens().get(match[1], "none"), body)
        text = _MIX.sub(_mixed, text)
        text = _FONT.sub(r"font-weight:\1;font-size:\2;font-family:\3;", text).replace("currentcolor", _tokens()["ink"])
        kept = [one for one in map(str.strip, text.split(";")) if one and _is_drawn(one)]
        if kept and ":hover" not in selector and "@" not in selector:
            rules.append(f"{selector.strip()}{{{';'.join(kept)}}}")
    return "".join(rules)


def _is_drawn(declaration: str) -> bool:
    """Whether a declaration is about the drawing itself, and known by its value."""
    return not declaration.startswith(_OF_PAGES) and "color-mix" not in declaration


def _mixed(match: re.Match[str]) -> str:
    """Two colours mixed; what is transparent lies on white paper."""
    first, percent, second = match.groups()
    share = int(percent) / 100
    pairs = ((int(first[k : k + 2], 16), int((second or "ffffff")[k : k + 2], 16)) for k in (0, 2, 4))
    return "#" + "".join(f"{round(share * a + (1 - share) * b):02x}" for a, b in pairs)


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
    styles = _USE.sub(lambda match: _tokens().get(match[1], "none"), "".join(map(_read, _PRINTED)))
    if conventions.letter:
        styles = styles.replace(_A4, _LETTER)
    context = {"title": title, "styles": faces + styles, "body": standing_alone(body)}
    return render_to_string("reports/alone.html", context)


@cache
def _fonts() -> tuple[FontConfiguration, CSS]:
    """The fonts of every PDF of this process: unpacking them takes longer than a page."""
    fonts = FontConfiguration()
    return fonts, CSS(string=_faces(), font_config=fonts, url_fetcher=_FETCHER)


def to_pdf(page: str) -> bytes:
    """Such a page as PDF, tagged for readers; nothing is fetched."""
    fonts, faces = _fonts()
    html = HTML(string=page, url_fetcher=_FETCHER, media_type="print")
    written: bytes = html.write_pdf(stylesheets=[faces], font_config=fonts, pdf_variant="pdf/ua-1")
    return written
