"""Unlike metals: the walk over the contact points, and those that are to be kept apart as one job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rovask.core.plain.faults import refused
from rovask.core.plain.words import count
from rovask.core.recipes.preview import Pick, filled
from rovask.core.refit.craft.kinds import Contact
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation

RECIPE = "unlike-metals"


@dataclass(frozen=True)
class NoteContacts(ChangeCommand):
    """Points at which metals meet, as they were seen: new ones without an id, the others as they are now. gone: ids that touch no longer."""

    rows: Sequence[Mapping[str, object]]
    gone: tuple[str, ...] = ()

    def told(self, refit: Refit) -> str:
        """How many."""
        return f"looked at {count(len(self.rows) + len(self.gone), 'place')} where metals meet"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Kept. Raises ValidationError for what can't be."""
        kept = {row.id: row for row in refit.contacts if row.id not in self.gone}
        for data in self.rows:
            key = str(data.get("id") or at.new_id("contact"))
            old = kept[key].model_dump() if key in kept else {}
            kept[key] = Contact.model_validate({**old, **data, "id": key, "at": at.moment})
        return rebuilt(refit, contacts=tuple(kept.values()))


@dataclass(frozen=True)
class KeepApart(RefitCommand):
    """Some contacts as one job: taken apart, cleaned, insulated, sealed, proved."""

    contacts: tuple[str, ...]
    metal: str = "aluminium"

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The job of the recipe, for as many points; each contact knows it. Raises RefitFaults when none is chosen."""
        rows = [row for row in refit.contacts if row.id in self.contacts]
        if not rows:
            raise refused("Tick at least one contact.")
        library = at.library()
        if RECIPE not in library.recipes:
            raise refused("The recipe for unlike metals was taken out of the library; bring it in again.")
        basket = filled(
            library, refit, [Pick(library.recipes[RECIPE], {"points": len(rows), "metal": self.metal})], frozenset(), ""
        )
        job = basket.expansions[0].job.id
        note = "; ".join(row.title for row in rows)[:4000]
        after = rebuilt(
            basket.refit,
            jobs=tuple(one.model_copy(update={"note": note}) if one.id == job else one for one in basket.refit.jobs),
            contacts=tuple(
                row.model_copy(update={"job": job}) if row in rows else row for row in basket.refit.contacts
            ),
        )
        return EditOutcome(Edited(after), f"planned {count(len(rows), 'contact')} of metals to be kept apart", job)
