"""The part of docs/recipes.md that is made from the library: where each recipe's figures come from, what goes before what,
and what counts as danger.
"""

from __future__ import annotations

from collections.abc import Iterator

from rovask.core.readings.order_of_work import DEEDS, ROWS
from rovask.core.recipes.common import Common
from rovask.formats.recipe_file import library

MARK = "<!-- From here on made by ./rovask assets from the library. -->"


def with_figures(page: str) -> str:
    """The page with everything after its mark made anew."""
    head, _, _ = page.partition(MARK)
    return "\n".join([head.rstrip(), "", MARK, "", *_figures(), "", *_order(), "", *_danger(library().common), ""])


def _figures() -> Iterator[str]:
    yield "## Where hours, waits and amounts come from"
    yield ""
    for recipe in sorted(library().recipes.values(), key=lambda one: one.title):
        yield f"- **{recipe.title}** (`{recipe.id}`). {recipe.figures}"


def _order() -> Iterator[str]:
    yield "## What goes before what"
    yield ""
    yield "In one place, whatever the jobs are: " + "; ".join(why for _, _, why in DEEDS) + "."
    yield ""
    for row in ROWS:
        wait = "" if row.lag == "0" else f", {row.lag} h{' at 20 °C' if row.cures else ''}"
        wait += f", at most {row.window} h" if row.window else ""
        when = f" (where {row.when})" if row.when else ""
        yield f"- `{row.first}` → `{row.then}`{wait}: {row.why}{when}"


def _danger(common: Common) -> Iterator[str]:
    yield "## What counts as danger"
    yield ""
    for name, row in common.danger.items():
        asks = [f"a caution ({' or '.join(row.has)})"] if row.has else []
        asks += [f"{row.hands} hands"] if row.hands > 1 else []
        asks += [f"gives off {' or '.join(one.value for one in row.emits)}"] if row.emits else []
        asks += [f"has the {' or the '.join(row.with_gear)}"] if row.with_gear else []
        asks += [f"{row.deed.value}: boat and ground are cleared"] if row.deed else []
        asks += [f"the skill {row.skill}"] if row.skill else []
        yield f"- **{name.replace('_', ' ')}**: {'; '.join(asks)}"
