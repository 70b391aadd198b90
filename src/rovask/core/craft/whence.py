"""Whence the water (the fumes, the smell, the flat battery, the heat): candidates by likelihood, what each answer rules out, what to look at next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pydantic import Field

from rovask.core.recipes.formula import Value, holds
from rovask.core.recipes.recipe import Condition, Name
from rovask.core.refit.craft.choices import Showed, TraceAbout
from rovask.core.refit.craft.kinds import Trace
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.values import Frozen, Label, Line, Text

NOBODY = "nobody"  # the candidate that nobody thought of
BUDGE = 0.02  # no clue says less than this of a candidate: people taste wrongly, and two leaks are two sources


class Clue(Frozen):
    """One answer to a question. group: answers of which one holds; usual: how often one answers so whatever the source."""

    group: Name
    ask: Line
    label: Line
    usual: float = Field(gt=0, lt=1)


class Candidate(Frozen):
    """Where it may come from. prior: weight before anything is asked; minutes: of a look; how: to look, one thing alone.

    shows: how often the look shows it when it is so; false: how often it seems so when it isn't. given: how often the
    answer to a clue is this, if it is so. spot: where. when: of a boat on which that holds. afloat: it shows only while she floats.
    recipe: what mends it.
    """

    title: Line
    about: TraceAbout
    prior: float = Field(gt=0, le=100)
    minutes: int = Field(ge=1, le=2000)
    how: Text
    shows: float = Field(default=0.9, gt=0, le=1)
    false: float = Field(default=0.05, ge=0, lt=1)
    given: dict[Name, float] = Field(default_factory=dict)
    spot: Spot | None = None
    when: Condition = ""
    afloat: bool = False
    recipe: Label = ""


class WhenceTables(Frozen):
    """Questions and candidates by name, what is done first whatever is searched for, and where the figures come from."""

    whence_source: Text
    first: dict[TraceAbout, Text]
    unthought: float = Field(gt=0, le=100)
    clue: dict[Name, Clue]
    candidate: dict[Name, Candidate]


@dataclass(frozen=True, slots=True)
class Suspect:
    """A candidate as it stands: how likely it is, with what it began (prior), and by how much each answer changed it.

    factors: (of which answer, times how much) before all are brought to one. worth: likelihood x how surely a look shows it, for
    each minute of looking: what is looked at first.
    """

    name: str
    title: str
    how: str
    prior: float
    likely: float
    minutes: int
    shows: float
    false: float
    factors: tuple[tuple[str, float], ...] = ()
    recipe: str = ""
    spot: Spot | None = None
    looks: int = 0
    afloat: bool = False

    @property
    def worth(self) -> float:
        """Chance that a look shows it, by the minute."""
        return self.likely * self.shows / self.minutes


def candidates(tables: WhenceTables, trace: Trace, facts: Mapping[str, Value]) -> dict[str, Candidate]:
    """Where it may come from on this boat: those of the table that she has, her own, and what nobody thought of."""
    own = {
        f"own{at}": Candidate(
            title=one.name, about=trace.about, prior=one.weight, minutes=one.minutes, how="As you know her."
        )
        for at, one in enumerate(trace.own)
    }
    found = {key: row for key, row in tables.candidate.items() if row.about is trace.about and holds(row.when, facts)}
    unthought = Candidate(
        title="Something nobody has thought of", about=trace.about, prior=tables.unthought, minutes=240, shows=0.5,
        how="Sleep on it; ask somebody who does not know her; look when it happens again.",
    )  # fmt: skip
    return {**found, **own, NOBODY: unthought}


def suspects(tables: WhenceTables, trace: Trace, facts: Mapping[str, Value]) -> list[Suspect]:
    """Every candidate with its likelihood by Bayes, the likeliest first.

    likelihood ∝ prior x Π P(answer | candidate) x Π P(look | candidate). An answer that a candidate says nothing of counts its usual
    frequency. A look that was clear counts 1 - shows for what was looked at and 1 - false for all others; one that showed it shows
    and false; an unclear one 1. One source is taken; the
    caution says that there may be two. O(candidates x answers).

    Raises nothing; where everything was ruled out, what nobody thought of is left.
    """
    rows = candidates(tables, trace, facts)
    weights: dict[str, float] = {}
    factors: dict[str, list[tuple[str, float]]] = {}
    for name, row in rows.items():
        weight, made = row.prior, []
        for key in trace.clues:
            clue = tables.clue.get(key)
            if clue is None:
                continue
            by = max(row.given.get(key, clue.usual), BUDGE)
            made.append((clue.label, by))
            weight *= by
        for look in trace.looks:
            by = _says(rows.get(look.candidate, row), look.showed, mine=look.candidate == name)
            if by != 1:
                made.append(
                    (
                        f"{rows[look.candidate].title if look.candidate in rows else look.candidate}: {look.showed.value}",
                        by,
                    )
                )
            weight *= by
        weights[name], factors[name] = weight, made
    total = sum(weights.values()) or 1.0
    whole = sum(row.prior for row in rows.values())
    out = [
        Suspect(
            name, row.title, row.how, row.prior / whole, weights[name] / total, row.minutes, row.shows, row.false,
            tuple(factors[name]), row.recipe, row.spot, sum(look.candidate == name for look in trace.looks), row.afloat,
        )
        for name, row in rows.items()
    ]  # fmt: skip
    return sorted(out, key=lambda one: (-one.likely, one.title))


def _says(looked: Candidate, showed: Showed, *, mine: bool) -> float:
    """P(what a look at ``looked`` showed | the source is that one, or another)."""
    if showed is Showed.UNCLEAR:
        return 1.0
    seems = looked.shows if mine else looked.false
    return max(seems, BUDGE) if showed is Showed.SOURCE else max(1 - seems, 0.0)


def in_order(found: Sequence[Suspect], *, ashore: bool = False) -> list[Suspect]:
    """In which order to look so that the source is found soonest: by chance to show it ÷ minutes, the most first.

    ashore: what shows only while she floats comes last.

    For looks that follow one another until one shows it, this order has the least expected time (the exchange argument of Smith's
    rule, 1956; a test tries every order). What was looked at twice and was clear comes late by its likelihood, not by rule.
    """
    named = [one for one in found if one.name != NOBODY]  # what nobody thought of can't be looked at
    return sorted(named, key=lambda one: (ashore and one.afloat, -one.worth, one.minutes, one.title))


def minutes_to_find(order: Sequence[Suspect]) -> float:
    """Expected minutes of looking in an order until a look shows it, or all are looked at once.

    >>> one = Suspect("a", "a", "", 0.5, 0.5, 30, 1.0, 0.0)
    >>> other = Suspect("b", "b", "", 0.5, 0.5, 60, 1.0, 0.0)
    >>> minutes_to_find([one, other]), minutes_to_find([other, one])
    (60.0, 75.0)
    """
    spent, there = 0.0, 1.0
    for one in order:
        spent += there * one.minutes
        there = max(there - one.likely * one.shows, 0.0)
    return spent
