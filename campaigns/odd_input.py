"""Each field of each form with each odd value by itself, then mixtures, files and headers: never a failure."""

import random
import time
from collections import Counter
from dataclasses import dataclass, field
from html.parser import HTMLParser
from urllib.parse import urldefrag, urljoin, urlsplit

import requests

from campaigns.report import Report
from campaigns.site import Person, Site

VALUES = (
    "", " ", "0", "-1", "1" * 29, "9" * 40, "1" * 5000, "1e400", "-1e-400", "NaN", "∞", "١٢٣", "½", "1,000", "1.2.3",
    "4k7", "OL", "?", "\x00", "\x1b[31m", "a\r\nSet-Cookie: x=1", "\u202eabc", "\ud7ff\ufffe", "é" * 61, "🙂" * 20,
    "<script>alert(1)</script>", "{{ 7 * 7 }}", "{% load x %}", "' OR 1=1 --", "${jndi:x}", "../../etc/passwd",
    "%00%n%s",
    "9" * 20 + "." + "9" * 20, "true", "None", "[]", '{"a": 1}', "R1=1k", "9V: 1k", "9V: " + "1k + " * 400 + "1k",
    "V1 A A 9V\nR1 A A 1k", "(" * 2000,
)  # fmt: skip
FILES = (
    b"", b"\x00" * 100, b"{", b"[]", b"null", b'{"format": "recensor-run"}', b"9" * 5000, b'{"a": ' * 3000,
    b"\xff\xfe{}",
    b'{"format": 1e999}', b'{"title": "\\ud800"}', b"* SPICE\nR1 a b 1k\n.include /etc/passwd\n.end\n",
    b"PK\x03\x04junk",
)  # fmt: skip
HEADERS = ("Cookie", "Referer", "X-Forwarded-For", "X-Forwarded-Proto", "HX-Request", "HX-Target", "Accept",
           "Content-Type", "X-CSRFToken", "Range", "If-Modified-Since", "Accept-Language")  # fmt: skip
LEFT_ALONE = ("/sign-out/", "/password/", "/sign-ins/")


@dataclass
class Form:
    """A form as a page shows it."""

    page: str
    method: str = "get"
    address: str = ""
    fields: dict[str, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)


class _Page(HTMLParser):
    """The links and the forms of a page."""

    def __init__(self, path: str, text: str) -> None:
        super().__init__()
        self.path, self.links, self.forms = path, set[str](), list[Form]()
        self._form: Form | None = None
        self._choosing = ""
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        said = {name: value or "" for name, value in attrs}
        if tag == "a" and "href" in said:
            self.links.add(urldefrag(urljoin(self.path, said["href"]))[0])
        if tag == "form":
            address = urljoin(self.path, said.get("action", ""))
            self._form = Form(self.path, said.get("method", "get").lower(), urlsplit(address).path)
            self.forms.append(self._form)
        name = said.get("name", "")
        if (
            tag == "option"
            and self._choosing
            and self._form
            and ("selected" in said or not self._form.fields[self._choosing])
        ):
            self._form.fields[self._choosing] = said.get("value", "")
        if not self._form or not name:
            return
        if tag == "select":
            self._choosing = name
        if said.get("type") == "file":
            self._form.files.append(name)
        elif tag in ("input", "select", "textarea", "button") and (said.get("type") != "radio" or "checked" in said):
            self._form.fields[name] = said.get("value", "")

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._form = None
        if tag == "select":
            self._choosing = ""


class _Asking:
    """Somebody who sends things, and what came of it."""

    def __init__(self, person: Person, report: Report) -> None:
        self.person, self.report, self.statuses = person, report, Counter[int]()

    def ask(self, method: str, path: str, what: object, **named: object) -> requests.Response | None:
        """Send; a failure, a hang or a lost connection is wrong."""
        try:
            answer = self.person.ask(method.upper(), path, **named)
        except (requests.ConnectionError, requests.Timeout) as error:
            self.report.wrong.append(f"{method} {path} {what!r:.200}: {type(error).__name__}")
            return None
        except (requests.RequestException, UnicodeError, ValueError):
            return None  # it cannot even be sent
        self.statuses[answer.status_code] += 1
        if answer.status_code >= 500 or "Traceback (most" in answer.text:
            self.report.wrong.append(f"{method} {path} {what!r:.200}: {answer.status_code}")
        return answer

    def send(self, form: Form, fields: dict[str, str], what: object, **named: object) -> None:
        """Send a form, as its page or as a part of one."""
        headers = {"HX-Request": "true"} if self.statuses.total() % 2 else {}
        sent = {"params": fields} if form.method == "get" else {"data": {**fields, **_token(self.person)}}
        self.ask(form.method, form.address, what, headers=headers, **sent, **named)


def run(site: Site, seconds: float, seed: int) -> Report:
    """Send it all, in any order, until the time is over; then look whether every page still opens."""
    draw, report = random.Random(seed), Report("odd input")
    site.people("odd", is_supervisor=True)
    asking = _Asking(_furnished(Person(site, "odd")), report)
    forms, pages = _crawled(asking)
    single = [
        (form, name, value)
        for form in forms
        for name in form.fields
        for value in VALUES
        if name != "csrfmiddlewaretoken"
    ]
    files = [(form, name, value) for form in forms for name in form.files for value in FILES]
    headers = [(page, name, value) for page in pages[:6] for name in HEADERS for value in VALUES]
    work: list[tuple[object, str, object]] = [*single, *files, *headers]
    draw.shuffle(work)
    end, done = time.monotonic() + seconds, 0
    for place, name, value in work:
        if time.monotonic() > end:
            break
        done += 1
        if isinstance(place, str):
            asking.ask("get", place, (name, value), headers={name: str(value).encode("utf-8", "replace")})
        elif isinstance(value, bytes):
            asking.send(place, place.fields, (name, value), files={name: ("file", value)})
        else:
            asking.send(place, {**place.fields, name: value}, (name, value))
    mixed = 0
    while time.monotonic() < end:
        form = draw.choice(forms)
        fields = {name: draw.choice(VALUES) if draw.random() < 0.5 else value for name, value in form.fields.items()}
        asking.send(form, fields, fields)
        mixed += 1
    asking.person = Person(site, "odd")
    for page in pages:
        asking.ask("get", page, "afterwards")
    told = ", ".join(f"{count} × {status}" for status, count in sorted(asking.statuses.items()))
    fields = sum(len(form.fields) + len(form.files) for form in forms)
    report.figures = (
        f"{done} of {len(work)} by themselves, {mixed} mixtures; {fields} fields of {len(forms)} forms ({told})"
    )
    return report


def _furnished(person: Person) -> Person:
    """Something of everything, so that every form has a page."""
    person.begin_run("9V: 1k + (2k | 3k); 5%")
    kit = person.post("/kits/", {"name": "Odd"}).headers["Location"]
    person.post(f"{kit}fill/", {"value": "1k", "tolerance": "5", "count": "9"})
    person.post(f"{kit}sort/", {"into": "12", "tolerance": "5", "accuracy": ""})
    person.post("/people/", {"name": "odd-other"})
    return person


def _crawled(asking: _Asking) -> tuple[list[Form], list[str]]:
    """Every form that links lead to, once for each of its kind, and the pages looked at."""
    forms: dict[tuple[object, ...], Form] = {}
    seen, waiting = (
        set[str](),
        ["/", "/sign-in/", "/preferences/", "/people/", "/pairs/", "/runs/new/", "/experiments/new/"],
    )
    while waiting and len(seen) < 120:
        path = waiting.pop(0)
        kind = urlsplit(path).path
        if kind in seen or kind.startswith(("/static/", *LEFT_ALONE)):
            continue
        seen.add(kind)
        answer = asking.ask("get", path, "crawl")
        if answer is None or "html" not in answer.headers.get("Content-Type", ""):
            continue
        page = _Page(path, answer.text)
        waiting += sorted(link for link in page.links if link.startswith("/"))
        for form in page.forms:
            if not form.address.startswith(LEFT_ALONE):
                forms.setdefault((form.address, *sorted(form.fields)), form)
    return list(forms.values()), sorted(seen)


def _token(person: Person) -> dict[str, str]:
    return {"csrfmiddlewaretoken": person.session.cookies.get("csrftoken", "")}
