"""What a recipe is: a usual job as data, with questions, formulas, tasks, ties, parts, unknowns, checks and cautions.

A file of one recipe is described in docs/recipes.md. Formulas are plain text (formula.py). Every fault is told at once.
"""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum
from typing import Annotated, Any, Self

from pydantic import BeforeValidator, Field, StringConstraints, model_validator

from rovask.core.recipes.facts import FACTS
from rovask.core.recipes.formula import LONGEST, BadFormula, names_in
from rovask.core.recipes.sides import WHICH, Each, apart
from rovask.core.refit.givens.choices import Charge, Service, Spot, Which
from rovask.core.refit.values import Frozen, Hours, Key, Label, Line, Remark, Skill, Text, Unit
from rovask.core.refit.work.choices import Deed, Emission, LinkKind, Need, Opens, State


def _as_text(value: Any) -> Any:
    """TOML numbers and yes or no are formulas too."""
    if isinstance(value, bool):
        return str(value)
    return f"{value:g}" if isinstance(value, int | float) else value


def _as_several(value: Any) -> Any:
    return (value,) if isinstance(value, str) else value


FORMULA = "formula"  # marks the fields that hold one
Formula = Annotated[str, BeforeValidator(_as_text), StringConstraints(min_length=1, max_length=LONGEST), FORMULA]
Condition = Annotated[str, BeforeValidator(_as_text), StringConstraints(max_length=LONGEST), FORMULA]
Name = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}$")]
RecipeId = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,19}$")]
StepElsewhere = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*\.[a-z][a-z0-9-]*$", max_length=60)]
# An end of a tie: haul, launch, a step, recipe.step; of several steps (a|b) the first that is kept.
End = Annotated[
    str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*(\.[a-z][a-z0-9-]*)?(\|[a-z][a-z0-9-]*)*$", max_length=90)
]
Step = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,15}$")]  # with its job's id it is a task's id


class Group(StrEnum):
    """Where a recipe stands in the library."""

    ALWAYS = "always"
    BOTTOM = "bottom"
    STRUCTURE = "structure"
    DRIVE = "drive"
    STEERING = "steering"
    WATER = "water"
    ELECTRIC = "electric"
    RIG = "rig"
    DECK = "deck"
    INSIDE = "inside"
    SAFETY = "safety"


class Ask(Frozen):
    """A question to the sailor. With choices it is answered by one of them, each with why people choose it; else by a
    number between least and most. default is one of the choices or a formula of the boat. school: practitioners differ, the reason is kept.
    when: asked only of a boat of which that holds. split: a total, of which each of two hulls (engines …) has its share.
    """

    label: Line
    unit: Unit = ""
    help: Label = ""
    default: Formula
    choices: dict[Name, Remark] = Field(default_factory=dict)
    least: float = 0
    most: float = 1000
    school: bool = False
    when: Condition = ""
    split: bool = False


class Refusal(Frozen):
    """When the recipe does not fit a boat, or an answer does not fit her; because is a sentence."""

    when: Condition
    because: Line


class PartLine(Frozen):
    """Something to buy. price is in whole units of the refit's currency for one of ``unit``: an invented guess to be
    overwritten by an offer; price_least, price_most: between what it lies, where that is known.
    """

    id: Step
    name: Line
    quantity: Formula = "1"
    unit: Unit = ""
    price: Formula = "0"
    price_least: Formula | None = None
    price_most: Formula | None = None
    lead_days: Formula = "3"
    when: Condition = ""


class StepLine(Frozen):
    """One task. hours: work of one unit with all hands at it; it is done between least and most times that.

    after: the steps it follows (None: the one before it that is done; empty: none); lag, window: elapsed hours from the
    end of those to its start; lag_least, lag_most: as short and as long as that wait may turn out. shares: a step of another recipe
    that is the same act: where that job is in the refit, it is done once. weather: a named surface of the common file. until, contained_by: steps. opens: what it
    opens, that must be looked at again before and after she floats. each: done once for each of what she has of that; once: done
    once, though the recipe is one for each; which: on that one of several, where she has it. does: what it does to its place. charge: what the yard charges
    for it by its tariff.
    """

    id: Step
    title: Line
    spot: Spot
    hours: Formula
    least: float = 0.7
    most: float = 1.7
    units: Formula = "1"
    hands: Formula = "1"
    skill: Skill | None = None
    skilled: tuple[Skill, ...] = ()
    state: State = State.ASHORE
    unbroken: bool = False
    weather: Name | None = None
    emits: tuple[Emission, ...] = ()
    shuns: tuple[Emission, ...] = ()
    tender: Hours = 0
    parts: tuple[Step, ...] = ()
    gear: tuple[Key, ...] = ()
    takes_out: tuple[Service, ...] = ()
    until: Step | None = None
    contained_by: Step | None = None
    after: tuple[Step, ...] | None = None
    lag: Formula = "0"
    lag_least: Formula | None = None
    lag_most: Formula | None = None
    window: Formula | None = None
    cures: bool = False
    make_good_hours: Formula | None = None
    make_good: Label = ""
    why: Remark = ""
    cautions: tuple[Name, ...] = ()
    check: Remark = ""
    opens: tuple[Opens, ...] = ()
    does: tuple[Deed, ...] = ()
    charge: Charge | None = None
    note: Text = ""
    shares: Annotated[tuple[StepElsewhere, ...], BeforeValidator(_as_several), Field(max_length=6)] = ()
    when: Condition = ""
    each: Each | None = None
    once: bool = False
    which: Which | None = None


class TieLine(Frozen):
    """A tie besides the chain. Its ends are steps of this recipe, ``haul``, ``launch``, or a step of another recipe
    written ``recipe.step``, which ties only when that job is in the refit too; of ``a|b`` the first that is kept. Formulas
    are of the recipe the tie stands in.
    """

    first: End
    then: End
    kind: LinkKind = LinkKind.FS
    lag: Formula = "0"
    window: Formula | None = None
    cures: bool = False
    make_good_hours: Formula | None = None
    make_good: Label = ""
    why: Remark = ""
    when: Condition = ""


class UnknownLine(Frozen):
    """A finding not yet made. settled_by: the step that settles it, of this recipe or ``recipe.step``."""

    title: Line
    chance: Formula
    hours: Formula = "0"
    lead_days: Formula = "0"
    price: Formula = "0"
    settled_by: Step
    recipe: Key | None = None
    when: Condition = ""


class OffLine(Frozen):
    """Something that comes off the boat, and the steps that take it off and put it back."""

    what: Line
    off: Step
    back: Step
    note: Remark = ""
    when: Condition = ""


class LookLine(Frozen):
    """A thing to look at on the first walk round: in which step, with which reading, and what a bad one leads to."""

    title: Line
    spot: Spot
    step: Step
    how: Remark = ""
    unit: Unit = ""
    good_to: float | None = None
    bad_from: float | None = None
    repair_hours: Hours = 0
    lead_days: int = Field(default=0, ge=0, le=365)
    recipe: Key | None = None
    when: Condition = ""


class Recipe(Frozen):
    """A usual job. figures: where its figures come from. always: every refit has it.

    each: its steps are done once for each hull, engine, rudder, keel, head or mast, as far as she has several; the sailor says which.
    one: usually for one of them only.
    """

    id: RecipeId
    title: Line
    group: Group
    need: Need = Need.MUST
    about: Text
    figures: Text
    refuse: tuple[Refusal, ...] = ()
    ask: dict[Name, Ask] = Field(default_factory=dict)
    values: dict[Name, Formula] = Field(default_factory=dict)
    part: tuple[PartLine, ...] = ()
    task: Annotated[tuple[StepLine, ...], Field(min_length=1, max_length=60)]
    tie: tuple[TieLine, ...] = ()
    unknown: tuple[UnknownLine, ...] = ()
    off: tuple[OffLine, ...] = ()
    look: tuple[LookLine, ...] = ()
    each: Each | None = None
    one: bool = False

    @model_validator(mode="after")
    def _sound(self) -> Self:
        faults = [*self._doubles(), *self._unknown_steps(), *self._bad_formulas(), *self._loops()]
        if faults:
            raise ValueError("; ".join(faults))
        return self

    def _doubles(self) -> Iterator[str]:
        for what, ids in (("task", [row.id for row in self.task]), ("part", [row.id for row in self.part])):
            for key in sorted({key for key in ids if ids.count(key) > 1}):
                yield f"{what} {key!r} stands in it twice"
        for row in self.task:
            if apart(row.id)[1] is not None:
                yield f"task {row.id!r} ends as the second of two does; call it otherwise"
        if WHICH in self.ask:
            yield f"{WHICH!r} is asked by the boat; call the question otherwise"
        for name in sorted(set(self.ask) & set(self.values)):
            yield f"{name!r} is both asked for and worked out"

    def _unknown_steps(self) -> Iterator[str]:
        steps, parts = {row.id for row in self.task}, {row.id for row in self.part}
        for row in self.task:
            for field, key in (("until", row.until), ("contained_by", row.contained_by)):
                if key and key not in steps:
                    yield f"task {row.id!r}: {field} names no task {key!r}"
            for key in row.after or ():
                if key not in steps:
                    yield f"task {row.id!r}: after names no task {key!r}"
            for key in row.parts:
                if key not in parts:
                    yield f"task {row.id!r}: there is no part {key!r}"
        named: list[tuple[str, tuple[str, ...]]] = [
            (f"unknown {one.title!r}", (one.settled_by,)) for one in self.unknown
        ]
        named += [(f"off {one.what!r}", (one.off, one.back)) for one in self.off]
        named += [(f"look {one.title!r}", (one.step,)) for one in self.look]
        named += [
            ("tie", tuple(name for end in (one.first, one.then) if "." not in end for name in end.split("|")))
            for one in self.tie
        ]
        for where, keys in named:
            for key in keys:
                if key not in steps | {"haul", "launch"}:
                    yield f"{where}: there is no task {key!r}"

    def formulas(self) -> Iterator[tuple[str, str]]:
        """Every formula and condition but those of ``values``, with the place it stands at."""
        for name, ask in self.ask.items():
            if ask.default not in ask.choices:
                yield f"ask.{name}.default", ask.default
            if ask.when:
                yield f"ask.{name}.when", ask.when
        for kind in ("refuse", "part", "task", "tie", "unknown", "off", "look"):
            for at, row in enumerate(getattr(self, kind)):
                for field, annotation in type(row).model_fields.items():
                    if FORMULA in annotation.metadata or field in (
                        "window",
                        "make_good_hours",
                        "price_least",
                        "price_most",
                    ):
                        text = getattr(row, field)
                        if text:
                            yield f"{kind}[{at}].{field}", text

    def _bad_formulas(self) -> Iterator[str]:
        known = FACTS | set(self.ask) | set(self.values)
        rows = [*self.formulas(), *((f"values.{name}", text) for name, text in self.values.items())]
        for where, text in rows:
            try:
                strange = names_in(text) - (FACTS if where.startswith("ask.") else known)
            except BadFormula as error:
                yield f"{where}: {error}"
                continue
            if strange:
                yield f"{where}: nobody knows {', '.join(sorted(strange))}"

    def _loops(self) -> Iterator[str]:
        try:
            uses = {name: names_in(text) & set(self.values) for name, text in self.values.items()}
        except BadFormula:
            return
        ring = ring_in(uses)
        if ring:
            yield f"values go round in a loop: {' → '.join(ring)}"
        order = {row.id: set(row.after or ()) for row in self.task}
        ring = ring_in(order)
        if ring:
            yield f"tasks wait for each other in a loop: {' → '.join(ring)}"

    @property
    def values_in_order(self) -> list[tuple[str, str]]:
        """The values, each after those it uses."""
        done: dict[str, str] = {}
        while len(done) < len(self.values):
            for name, text in self.values.items():
                if name not in done and names_in(text) & set(self.values) <= set(done):
                    done[name] = text
        return list(done.items())


def ring_in(uses: dict[str, set[str]]) -> list[str]:
    """A ring in who uses whom, its first name at both ends; empty if there is none."""
    clear: set[str] = set()
    for begin in uses:
        path: list[str] = []

        def walk(name: str, path: list[str] = path) -> list[str]:
            if name in path:
                return [*path[path.index(name) :], name]
            if name in clear:
                return []
            path.append(name)
            for other in sorted(uses.get(name, ())):
                ring = walk(other)
                if ring:
                    return ring
            clear.add(path.pop())
            return []

        ring = walk(begin)
        if ring:
            return ring
    return []
