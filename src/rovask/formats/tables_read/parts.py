"""Parts, a row each."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, ClassVar, cast

from rovask.core.refit import typed
from rovask.core.refit.model import Part
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, Reader


class PartsReader(Reader):
    """Parts, a row each."""

    listed = "parts"
    given: ClassVar = {
        "name": ("name",),
        "quantity": ("quantity",),
        "unit": ("unit",),
        "supplier": ("supplier",),
        "price": ("price",),
        "lead days": ("lead_days",),
        "dimension": ("dimension",),
        "stowed": ("stowed",),
        "counted": ("counted",),
    }
    along: ClassVar = {"counted": "counted_at"}

    def name_of(self, record: Frozen) -> Key:
        part = cast(Part, record)
        return part.name.casefold(), part.supplier.casefold(), part.dimension

    def known(self) -> Iterator[Key]:
        yield from (self.name_of(part) for part in self.refit.parts)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        price = typed.minor(cells["price"], self.refit.currency) if cells.get("price") else 0
        data: dict[str, Any] = {
            "id": self.new_id("part"),
            "name": cells["name"],
            "quantity": self.number(cells, "quantity", 1, 1e-6),
            "price": price,
            "lead_days": int(self.number(cells, "lead days", 3)),
        }
        data |= {name: cells.get(name, "") for name in ("unit", "supplier", "dimension", "stowed")}
        if cells.get("counted"):
            counted = self.number(cells, "counted", 0)
            data |= {"counted": counted, "counted_at": self.now}
        part = Part.model_validate(data)
        return [part], self.name_of(part)
