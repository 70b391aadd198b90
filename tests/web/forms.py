"""Forms of a page as a browser would send them: every field with what stands in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from html.parser import HTMLParser

Pairs = list[tuple[str, str]]


@dataclass
class PageForm:
    """One form: where it goes, how, what it sends as it stands, and its buttons that say something of their own."""

    action: str
    method: str
    fields: Pairs = field(default_factory=list)
    buttons: Pairs = field(default_factory=list)
    files: list[str] = field(default_factory=list)
    kept: bool = False
    by_script: bool = False  # a script fills it in and says where it goes

    def value(self, name: str) -> str:
        """What stands in a field."""
        return next(value for key, value in self.fields if key == name)

    def data(self, **changes: str) -> dict[str, object]:
        """What is sent, with some fields typed anew (_ for -); several values of one name stay several."""
        typed = {name.replace("__", "-"): value for name, value in changes.items()}
        out: dict[str, object] = {}
        for name, value in self.fields:
            if name in typed:
                continue
            old = out.get(name)
            out[name] = value if old is None else [*old, value] if isinstance(old, list) else [old, value]
        return out | typed


class _Forms(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.forms: list[PageForm] = []
        self.links: list[str] = []
        self.now: PageForm | None = None
        self.by_id: dict[str, PageForm] = {}
        self.owner: PageForm | None = None  # of the field that is open: the form around it, or the one it names
        self.area: str | None = None
        self.select: tuple[str, list[tuple[str, bool]]] | None = None
        self.text: list[str] = []
        self.option: tuple[str | None, bool] | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        has = {name: value or "" for name, value in attrs}
        if tag == "a" and has.get("href"):
            self.links.append(has["href"])
        if tag == "form":
            self.now = PageForm(
                has.get("action", ""),
                has.get("method", "get"),
                kept="data-kept" in has,
                by_script=has.get("id") in ("nudge", "drop"),
            )
            self.forms.append(self.now)
            self.by_id[has.get("id", "")] = self.now
        name, form = has.get("name", ""), self.by_id.get(has["form"]) if has.get("form") else self.now
        if form is None or "disabled" in has:
            return
        if tag == "input" and name:
            self._input(form, name, has)
        elif tag == "button" and has.get("formaction"):  # sends the form's fields elsewhere: a form by itself
            says = [(name, has.get("value", ""))] if name else []
            self.forms.append(PageForm(has["formaction"], form.method, form.fields, says))
        elif tag == "button" and name:
            form.buttons.append((name, has.get("value", "")))
        elif tag == "textarea" and name:
            self.area, self.text, self.owner = name, [], form
        elif tag == "select" and name:
            self.select, self.owner = (name, []), form
        elif tag == "option" and self.select is not None:
            self._option_ends()
            self.option, self.text = (has.get("value"), "selected" in has), []

    def _input(self, form: PageForm, name: str, has: dict[str, str]) -> None:
        kind = has.get("type", "text")
        if kind == "file":
            form.files.append(name)
        elif kind in ("checkbox", "radio"):
            if "checked" in has:
                form.fields.append((name, has.get("value", "on")))
        elif kind not in ("submit", "button", "image"):
            form.fields.append((name, has.get("value", "")))

    def _option_ends(self) -> None:
        if self.option is not None and self.select is not None:
            value, chosen = self.option
            self.select[1].append(("".join(self.text).strip() if value is None else value, chosen))
        self.option = None

    def handle_endtag(self, tag: str) -> None:
        if tag == "textarea" and self.area is not None and self.owner is not None:
            text = "".join(self.text)
            self.owner.fields.append((self.area, text.removeprefix("\n")))
            self.area = None
        elif tag == "option":
            self._option_ends()
        elif tag == "select" and self.select is not None:
            self._option_ends()
            name, options = self.select
            self.select = None
            if options and self.owner is not None:
                chosen = next((value for value, picked in options if picked), options[0][0])
                self.owner.fields.append((name, chosen))
        elif tag == "form":
            self.now = None

    def handle_data(self, data: str) -> None:
        if self.area is not None or self.option is not None:
            self.text.append(data)


def forms_of(html: str) -> list[PageForm]:
    """Every form of a page, in order."""
    found = _Forms()
    found.feed(html)
    return found.forms


def links_of(html: str) -> list[str]:
    """Where the links of a page lead, in order."""
    found = _Forms()
    found.feed(html)
    return found.links


def form_to(html: str, action: str) -> PageForm:
    """The first form of a page whose address ends so."""
    return next(form for form in forms_of(html) if form.action.endswith(action))
