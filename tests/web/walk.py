"""A walk over the application as somebody in it: every page that links lead to, and every form on them."""

from __future__ import annotations

import re
from collections import Counter, deque
from collections.abc import Iterator
from dataclasses import dataclass, field
from urllib.parse import parse_qsl, urljoin, urlsplit

from fastapi.routing import APIRoute

from tests.conftest import Sailor
from tests.web.forms import PageForm, forms_of, links_of

HOPS = 4


def routes(app: object) -> Iterator[APIRoute]:
    """Every route of the application in the order in which they are tried, those of its routers too."""
    for holder in app.routes:  # type: ignore[attr-defined]
        router = getattr(holder, "original_router", None)
        yield from (route for route in ([holder] if router is None else router.routes) if isinstance(route, APIRoute))


@dataclass
class Walk:
    """What was found: each page by its address, and each form with the page it stands on."""

    app: object
    pages: dict[str, str] = field(default_factory=dict)
    dead: list[tuple[str, str, int]] = field(default_factory=list)  # (page, link, status)
    forms: list[tuple[str, PageForm]] = field(default_factory=list)

    def route(self, method: str, path: str) -> str:
        """The route that answers an address, with the kind of record where it has one."""
        for one in routes(self.app):
            match = one.path_regex.match(path) if method in one.methods else None
            if match:
                kind = match.groupdict().get("kind", "")
                return f"{method} {one.path}" + (f" {kind}" if kind else "")
        return f"{method} nowhere: {path}"

    def posts(self) -> Iterator[tuple[str, PageForm]]:
        """Each sort of form that writes, once: by its route, its fields' names and its buttons."""
        seen = set()
        for page, form in self.forms:
            names = {re.sub(r"[0-9].*|-.*", "", name) for name, _ in form.fields}
            words = frozenset(
                value for name, value in form.fields if name in ("way", "status", "state", "key") if value
            )
            sort = (self.route("POST", form.action), frozenset(names), frozenset(form.buttons), bool(words))
            if form.method == "post" and sort not in seen:
                seen.add(sort)
                yield page, form


def landed(who: Sailor, path: str) -> tuple[str, int, str]:
    """Where an address leads in the end: address, status, text."""
    answer = who.get(path)
    for _ in range(HOPS):
        if answer.status_code not in (301, 302, 303, 307):
            break
        path = urljoin(path, answer.headers["location"])
        answer = who.get(path.partition("#")[0])
    page = "html" in answer.headers.get("content-type", "")
    return path.partition("#")[0], answer.status_code, answer.text if page else ""


def walked(who: Sailor, pk: int, each: int = 1, start: str = "morning") -> Walk:
    """All pages of a refit that links lead to, ``each`` so many of one route with the same questions asked."""
    found = Walk(who.client.app)  # type: ignore[attr-defined]
    todo, seen, counts = deque([(f"/r/{pk}/{start}", "")]), set(), Counter[str]()
    while todo:
        asked, page = todo.popleft()
        path, status, text = landed(who, asked)
        if status != 200:
            found.dead.append((page, asked, status))
            continue
        if not text or path in found.pages:
            continue
        found.pages[path] = text
        for form in forms_of(text):
            if not form.by_script:
                form.action = form.action or path.partition("?")[0]  # a form without an address is sent to its own page
                found.forms.append((path, form))
        for link in links_of(text):
            parts = urlsplit(urljoin(path, link))
            address = parts.path + (f"?{parts.query}" if parts.query else "")
            sort = f"{found.route('GET', parts.path)}?{sorted(name for name, _ in parse_qsl(parts.query))}"
            if parts.netloc or not parts.path.startswith(f"/r/{pk}/") or address in seen or counts[sort] >= each:
                continue
            counts[sort] += 1
            seen.add(address)
            todo.append((address, path))
    return found
