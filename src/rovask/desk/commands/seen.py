"""What is seen: the first look, findings, unknowns, what is off the boat."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.craft.seized_edits import is_of_seized
from rovask.core.judged.leaps import Doubtful
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import count
from rovask.core.refit.edits import put
from rovask.core.refit.model import Finding, Photo, Refit
from rovask.core.refit.seen.choices import Severity, UnknownState
from rovask.core.refit.seen.edits import (
    look_again,
    look_at,
    moved_off,
    real_finding,
    real_work,
    settle_finding,
    settle_unknown,
    take_reading,
)
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.formats.photo import Picture


def photo_of(picture: Picture | None, title: str, at: Situation) -> tuple[tuple[Photo, ...], str]:
    """The record of a picture, to be put aside, and its id; nothing and "" for none."""
    if picture is None:
        return (), ""
    photo = Photo(
        id=at.new_id("photo"),
        title=title[:120],
        sha256=picture.sha256,
        width=picture.width,
        height=picture.height,
        size=len(picture.large),
        at=at.moment,
    )
    return (photo,), photo.id


def _title(rows: tuple[object, ...], key: str, field: str, otherwise: str) -> str:
    return next((str(getattr(row, field)) for row in rows if getattr(row, "id", "") == key), otherwise)


class WithPicture(RefitCommand):
    """An act that a picture may come with."""

    picture: Picture | None = None

    @property
    def pictures(self) -> tuple[Picture, ...]:
        """The picture, if there is one."""
        return (self.picture,) if self.picture is not None else ()


@dataclass(frozen=True)
class LookAt(WithPicture, ChangeCommand):
    """Note what was seen of one thing on the first look."""

    inspection: str
    verdict: Severity | None
    reading: float | None
    note: str = ""
    picture: Picture | None = None

    def told(self, refit: Refit) -> str:
        """At what."""
        return f"looked at “{_title(refit.inspections, self.inspection, 'title', 'a thing')}”"

    def change(self, refit: Refit, at: Situation) -> Edited:
        """Noted; what is bad becomes a finding."""
        title = _title(refit.inspections, self.inspection, "title", "a thing")
        photos, photo = photo_of(self.picture, title, at)
        after = look_at(
            refit,
            self.inspection,
            at.moment,
            verdict=self.verdict,
            reading=self.reading,
            note=self.note,
            finding_id=f"look-{self.inspection}"[:40],
            photo=photo,
        )
        return Edited(after, photos)


@dataclass(frozen=True)
class TakeReading(ChangeCommand):
    """A reading of something that is read daily: moisture, the temperature of the surface. when: None for now."""

    inspection: str
    value: float
    when: datetime | None = None

    def told(self, refit: Refit) -> str:
        """What it reads."""
        return f"read {self.value:g} at “{_title(refit.inspections, self.inspection, 'title', 'a thing')}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """One more. Raises RefitFaults for a time that lies ahead."""
        if self.when is not None and self.when > at.moment:
            raise RefitFaults([Fault("when", "That lies ahead; give the time at which it was read.")])
        return take_reading(refit, self.inspection, self.when or at.moment, self.value)


@dataclass(frozen=True)
class LookAgain(ChangeCommand):
    """Take back what was seen of one thing."""

    inspection: str

    def told(self, refit: Refit) -> str:
        """That it is to be looked at again."""
        return "will look again"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """To be looked at."""
        return look_again(refit, self.inspection)


@dataclass(frozen=True)
class Found(WithPicture):
    """Something was found: where and how bad is enough. more: what else was found there, as bad, each a finding of its own."""

    place: str
    severity: Severity
    title: str = ""
    note: str = ""
    picture: Picture | None = None
    more: tuple[str, ...] = ()

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """A finding, named by its place when nothing was typed."""
        where = self.place if self.place in refit.place_by_id else None
        title = self.title or f"Something at {refit.place_by_id[where].name.lower() if where else 'the boat'}"
        photos, photo = photo_of(self.picture, title, at)
        finding = Finding(
            id=at.new_id("finding"),
            title=title[:120],
            place=where,
            severity=self.severity,
            note=self.note,
            at=at.moment,
            photos=(photo,) if photo else (),
        )
        after = put(refit, finding)
        for other in self.more[:MOST_AT_ONCE]:
            changes = {"id": at.new_id("finding"), "title": other[:120], "note": "", "photos": ()}
            after = put(after, finding.model_copy(update=changes))
        told = f"found: {title}" + (f" and {count(len(self.more[:MOST_AT_ONCE]), 'more thing')}" if self.more else "")
        return EditOutcome(Edited(after, photos), told, finding.id)


MOST_AT_ONCE = 40  # findings of one form


@dataclass(frozen=True)
class SettleFinding(ChangeCommand):
    """A finding is settled, or open again."""

    finding: str
    settled: bool

    def told(self, refit: Refit) -> str:
        """Which."""
        title = _title(refit.findings, self.finding, "title", "a finding")
        return f"settled “{title}”" if self.settled else f"opened “{title}” again"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return settle_finding(refit, self.finding, settled=self.settled)


@dataclass(frozen=True)
class SettleUnknown(RefitCommand):
    """An unknown was looked at: nothing there, or it is real; or it is open again.

    A real one that has a recipe becomes a finding, whose id is what this made; else its work becomes a task. anyway: it is
    known though the task that settles it is not begun.
    """

    unknown: str
    state: UnknownState
    anyway: bool = False

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """What became of it."""
        row = next((one for one in refit.unknowns if one.id == self.unknown), None)
        if row is None:
            raise RefitFaults([Fault("", "This unknown is gone; somebody removed it meanwhile.")])
        if (fast := is_of_seized(refit, self.unknown)) is not None:
            raise RefitFaults([Fault("", f"Say on the ladder of “{fast.title}” whether it came, held or broke.")])
        settling = refit.tasks.get(row.task or "")
        if self.state is not UnknownState.OPEN and not self.anyway and settling is not None and not settling.begun_at:
            said = "is real" if self.state is UnknownState.REAL else "is not there"
            doubt = f"“{settling.title}” is to show it, and that is not begun. Is it known by now that it {said}?"
            raise Doubtful(row.title, [doubt])
        if self.state is not UnknownState.REAL:
            words = "opened again" if self.state is UnknownState.OPEN else "found nothing of it"
            return EditOutcome(Edited(settle_unknown(refit, self.unknown, self.state)), f"{words}: {row.title}")
        told = f"found it real: {row.title}"
        if row.recipe:
            finding = at.new_id("finding")
            return EditOutcome(Edited(real_finding(refit, self.unknown, finding, at.moment)), told, finding)
        return EditOutcome(Edited(real_work(refit, self.unknown, at.new_id("task"), at.new_id("link"))), told)


@dataclass(frozen=True)
class MoveOff(WithPicture, ChangeCommand):
    """Something came ``off``, is ``back``, is still ``on``, is ``missing`` or ``found`` again, or (``note``) only more is said of it."""

    thing: str
    way: str
    lies_at: str | None = None
    note: str | None = None
    bag: str | None = None
    picture: Picture | None = None

    def told(self, refit: Refit) -> str:
        """What happened to it."""
        words = {"off": "took {} off", "back": "put {} back on", "on": "noted that {} is still on"}
        words |= {"missing": "missed {}", "found": "found {} again"}
        title = _title(refit.off_boat, self.thing, "what", "a thing")
        return words.get(self.way, "noted something of {}").replace("{}", f"“{title}”")

    def change(self, refit: Refit, at: Situation) -> Edited:
        """So."""
        title = _title(refit.off_boat, self.thing, "what", "a thing")
        photos, photo = photo_of(self.picture, title, at)
        after = moved_off(
            refit, self.thing, self.way, at.moment, lies_at=self.lies_at, note=self.note, bag=self.bag, photo=photo
        )
        return Edited(after, photos)
