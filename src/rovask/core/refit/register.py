"""Each kind of record, declared once: on its model, by ``@kept``. Everything else about records is read off here.

A record is one thing with an id that is kept, changed, taken back and written to the file by itself. Its model says
what it is made of; ``kept`` says what it is called, where it is kept and where it lives on the pages; ``To`` on a field
says what the field points at and what happens there when that goes. References (references.py), records and their
history (records.py), removal (removal.py), the tables (store/record_tables.py), the file and its schema
(formats/refit_file.py) and the frame of every form (web/sheets.py) are derived.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from types import UnionType
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel

Model = TypeVar("Model", bound=type[BaseModel])


class Gone(StrEnum):
    """What happens to a record when something it points at is removed.

    refuse: that can't be removed while this record is. ask: it can, when the sailor says that this record shall do
    without it. forget: this record does without it, unasked. go: this record goes along.
    """

    REFUSE = "refuse"
    ASK = "ask"
    FORGET = "forget"
    GO = "go"


@dataclass(frozen=True, slots=True)
class To:
    """On a field of ids: the kind of record it points at. ``words``: what may stand there besides (haul, launch).

    also: other kinds it may point at instead; with words or these there is no foreign key to keep.
    """

    kind: str
    gone: Gone = Gone.REFUSE
    words: tuple[str, ...] = ()
    also: tuple[str, ...] = ()

    @property
    def kinds(self) -> tuple[str, ...]:
        """Every kind it may point at."""
        return (self.kind, *self.also)


@dataclass(frozen=True, slots=True)
class Point:
    """A field that points at records. ``many``: it holds several ids."""

    field: str
    to: To
    many: bool


@dataclass(frozen=True, eq=False)
class Kind:
    """One kind of record.

    name: in addresses, in the history and in ids. list: the field of the refit (or of its file) that holds them; ""
    for the one there is of its kind. table: where they are kept. word: what a sailor calls one. title: the field that
    names one. page: the screen it lives on. fresh: what a new one starts as, by field. inside: the kind whose records
    hold these, as a list of that name. aside: not read by the planner, kept in a repository of its own. planned: False where
    no plan hangs on it, so that a change moves no task. givens: what the plan takes as given, and only a skipper changes.
    unique, index: fields that are so in the table. most: how many a refit may have.
    """

    name: str
    model: type[BaseModel]
    list: str
    table: str
    word: str
    title: str
    page: str
    fresh: Mapping[str, Any] = field(default_factory=dict)
    inside: str = ""
    aside: bool = False
    planned: bool = True
    givens: bool = False
    unique: tuple[tuple[str, ...], ...] = ()
    index: tuple[str, ...] = ()
    most: int = 1000

    @property
    def single(self) -> bool:
        """Whether there is one of it: the boat, the yard, the weather."""
        return not self.list

    @cached_property
    def fields(self) -> tuple[str, ...]:
        """The fields of a record of its own; those that hold other records left out."""
        holds = {kind.list for kind in KINDS.values() if kind.inside == self.name}
        return tuple(name for name in self.model.model_fields if name not in holds)

    @cached_property
    def points(self) -> tuple[Point, ...]:
        """Every field that points at other records."""
        return tuple(
            Point(name, to, many)
            for name, info in self.model.model_fields.items()
            for to, many in _aims(Annotated[info.annotation, *info.metadata] if info.metadata else info.annotation)
        )

    def title_of(self, record: Any) -> str:
        """What a record, as a model or as plain data, is called."""
        value = record.get(self.title) if isinstance(record, Mapping) else getattr(record, self.title, "")
        return str(value or self.word)


KINDS: dict[str, Kind] = {}
_BY_MODEL: dict[type[BaseModel], Kind] = {}


def kept(name: str, list: str = "", **more: Any) -> Callable[[Model], Model]:
    """Declare a model to be a kind of record; see Kind for the words. Raises ValueError for a name that is taken."""

    def declare(model: Model) -> Model:
        if name in KINDS:
            raise ValueError(f"there is a kind {name!r} already")
        words = {"table": name.replace("-", "_"), "word": name.replace("-", " "), "title": "title", "page": "yard"}
        kind = Kind(name=name, model=model, list=list, **(words | more))
        KINDS[name] = _BY_MODEL[model] = kind
        return model

    return declare


def forget(name: str) -> None:
    """Take a kind out of the register: for a test that declared one to throw away."""
    del _BY_MODEL[KINDS.pop(name).model]


def kind_of(model: type[BaseModel]) -> Kind:
    """The kind a model declares. Raises KeyError for a model that is no record."""
    return _BY_MODEL[model]


def kinds(*, aside: bool | None = None) -> Iterator[Kind]:
    """Every kind in the order of declaration; only those aside, or only the others."""
    yield from (kind for kind in KINDS.values() if aside is None or kind.aside is aside)


def _aims(annotation: Any, many: bool = False) -> Iterator[tuple[To, bool]]:
    """The To marks in an annotation, however deep, and whether each stands on a list."""
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *marks = get_args(annotation)
        is_list = many or get_origin(inner) is tuple
        yield from ((mark, is_list) for mark in marks if isinstance(mark, To))
        yield from _aims(inner, many)
    elif origin in (Union, UnionType):
        for one in get_args(annotation):
            yield from _aims(one, many)
    elif origin is tuple:
        yield from _aims(get_args(annotation)[0], True)
