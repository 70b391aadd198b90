"""Reading pages in tests: by element, never as one long text."""

from __future__ import annotations

from html.parser import HTMLParser


class Elements(HTMLParser):
    """Elements of a page in order: (tag, attributes, text within)."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.found: list[tuple[str, dict[str, str], list[str]]] = []
        self.open: list[int] = []
        self.feed(html)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.found.append((tag, {name: value or "" for name, value in attrs}, []))
        if tag not in ("input", "meta", "link", "br"):
            self.open.append(len(self.found) - 1)

    def handle_endtag(self, tag: str) -> None:
        while self.open:
            if self.found[self.open.pop()][0] == tag:
                return

    def handle_data(self, data: str) -> None:
        for at in self.open:
            self.found[at][2].append(data)

    def texts(self, tag: str, **attributes: str) -> list[str]:
        """The texts of all elements of a tag with these attributes (class_ for class: one of its words)."""
        wanted = {name.rstrip("_").replace("_", "-"): value for name, value in attributes.items()}
        return [
            " ".join("".join(text).split())
            for name, has, text in self.found
            if name == tag
            and all(value in has.get(key, "").split() or has.get(key) == value for key, value in wanted.items())
        ]

    def value(self, name: str) -> str:
        """What stands in a form field."""
        for tag, has, text in self.found:
            if has.get("name") == name:
                return has.get("value", "") if tag == "input" else "".join(text).strip("\n")
        raise AssertionError(f"no field {name!r}")

    def attributes(self, tag: str, name: str) -> list[str]:
        return [has[name] for kind, has, _ in self.found if kind == tag and name in has]
