"""Buttons pressed as a browser does: the form that the page shows is what is sent, and nothing else."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from html.parser import HTMLParser
from urllib.parse import urljoin

from django.http import HttpResponse
from django.test import Client

# The inputs that a browser sends as they stand, and those that it sends where they are ticked.
_TICKED = ("checkbox", "radio")
_NOT_SENT = ("submit", "button", "reset", "file", "image")


@dataclass
class Button:
    """A button that sends its form: its words, and the field that it adds."""

    words: str = ""
    name: str = ""
    value: str = ""
    action: str = ""
    is_disabled: bool = False


@dataclass
class Form:
    """A form of a page, with its fields as they stand."""

    action: str
    method: str
    fields: list[tuple[str, str]] = field(default_factory=list)
    fillable: set[str] = field(default_factory=set)
    buttons: list[Button] = field(default_factory=list)


class _Reader(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.forms: list[Form] = []
        self._open: list[Form] = []
        self._button: Button | None = None
        self._select = ""
        self._option: str | None = None
        self._area: tuple[str, list[str]] | None = None

    def handle_starttag(self, tag: str, attributes: list[tuple[str, str | None]]) -> None:
        said = {name: value or "" for name, value in attributes}
        if tag == "form":
            action = said.get("action") or said.get("hx-post") or said.get("hx-get") or ""
            self._open.append(Form(action, said.get("method", "post" if "hx-post" in said else "get").lower()))
            self.forms.append(self._open[-1])
            return
        if not self._open:
            return
        form, name = self._open[-1], said.get("name", "")
        if tag == "button" and said.get("type", "submit") == "submit":
            action = said.get("formaction") or said.get("hx-post") or ""
            self._button = Button("", name, said.get("value", ""), action, "disabled" in said)
            form.buttons.append(self._button)
        elif tag == "input" and name and said.get("type", "text") not in _NOT_SENT and "disabled" not in said:
            form.fillable.add(name)
            if said.get("type") not in _TICKED or "checked" in said:
                form.fields.append((name, said.get("value", "on" if said.get("type") in _TICKED else "")))
        elif tag == "select" and name:
            form.fillable.add(name)
            self._select, self._option = name, None
        elif tag == "option" and self._select and (self._option is None or "selected" in said):
            self._option = said.get("value")
        elif tag == "textarea" and name:
            form.fillable.add(name)
            self._area = name, []

    def handle_data(self, data: str) -> None:
        if self._button is not None:
            self._button.words = " ".join(f"{self._button.words} {data}".split())
        elif self._area is not None:
            self._area[1].append(data)

    def handle_endtag(self, tag: str) -> None:
        if tag == "button":
            self._button = None
        elif tag == "select" and self._select and self._open:
            self._open[-1].fields.append((self._select, self._option or ""))
            self._select = ""
        elif tag == "textarea" and self._area and self._open:
            self._open[-1].fields.append((self._area[0], "".join(self._area[1]).removeprefix("\n")))
            self._area = None
        elif tag == "form" and self._open:
            self._open.pop()


def forms_of(page: HttpResponse) -> list[Form]:
    """The forms of a page, in order."""
    reader = _Reader()
    reader.feed(page.content.decode())
    return reader.forms


def press(client: Client, page: HttpResponse, words: str, nth: int = 0, **typed: str | list[str]) -> HttpResponse:
    """Press the button of these words after typing into its form; the answer. Raises `LookupError` where there is none.

    A field that the form has not is no field to type into. An htmx form is sent as htmx sends it.
    """
    found = [(form, button) for form in forms_of(page) for button in form.buttons if button.words == words]
    if len(found) <= nth:
        raise LookupError(f"No button {words!r}; there are {sorted(_buttons(page))}")
    form, button = found[nth]
    if button.is_disabled:
        raise LookupError(f"The button {words!r} cannot be pressed")
    if unknown := set(typed) - form.fillable:
        raise LookupError(f"The form of {words!r} has no {', '.join(unknown)}; it has {sorted(form.fillable)}")
    data: dict[str, list[str]] = {}
    for name, value in form.fields:
        if name not in typed:
            data.setdefault(name, []).append(value)
    for name, value in typed.items():
        data[name] = [value] if isinstance(value, str) else value
    if button.name:
        data.setdefault(button.name, []).append(button.value)
    address = urljoin(page.wsgi_request.get_full_path(), button.action or form.action)
    return client.get(address, data) if form.method == "get" else client.post(address, data)


def _buttons(page: HttpResponse) -> Iterator[str]:
    return (button.words for form in forms_of(page) for button in form.buttons)
