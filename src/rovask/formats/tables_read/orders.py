"""Orders, a row for each of their lines."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any, ClassVar, cast

from rovask.core.refit import typed
from rovask.core.refit.model import Order, OrderLine, Refit
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, NewId, Reader


class OrdersReader(Reader):
    """Orders, a row for each of their lines."""

    listed = "order_lines"
    given: ClassVar = {"part": ("part",), "quantity": ("quantity",), "price": ("price",)}
    shares = True

    def name_of(self, record: Frozen) -> Key | None:
        line = cast(OrderLine, record)
        return line.order, line.part

    def called(self, record: Frozen) -> str:
        return self.refit.part_by_id[cast(OrderLine, record).part].name

    def __init__(self, refit: Refit, new_id: NewId, now: datetime) -> None:
        super().__init__(refit, new_id, now)
        self.orders = {(one.supplier.casefold(), one.number): one for one in refit.orders if one.number}
        self.made: dict[str, Order] = {}

    def known(self) -> Iterator[Key]:
        orders = {one.id: one for one in self.refit.orders}
        for line in self.refit.order_lines:
            order = orders[line.order]
            yield order.supplier.casefold(), order.number, line.part, line.quantity, line.price

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        part = self.part(cells["part"])
        price, currency, rate = self.money(cells, "price")
        name = (cells["supplier"].casefold(), cells.get("number") or f"of {cells['ordered']}")
        order = self.orders.get(name)
        if order is not None and order.currency != currency:
            raise ValueError(f"the order is in {order.currency}; type the price in {order.currency}")
        fresh = order is None
        if order is None:
            order = Order.model_validate(
                {
                    "id": self.new_id("purchase"),
                    "supplier": cells["supplier"],
                    "number": cells.get("number", ""),
                    "currency": currency,
                    "rate": rate,
                    "placed_at": self.day(cells["ordered"]),
                    "expected": self.day(cells["expected"]) if cells.get("expected") else None,
                }
            )
        line = OrderLine.model_validate(
            {
                "id": self.new_id("order-line"),
                "order": order.id,
                "part": part.id,
                "quantity": self.number(cells, "quantity", part.quantity, 1e-6),
                "price": price,
            }
        )
        if fresh:
            self.made[order.id] = order
            self.orders[name] = order
        return [line], (order.supplier.casefold(), order.number, part.id, line.quantity, line.price)

    def first(self) -> list[Frozen]:
        return list(self.made.values())

    def head(self, was: Cells, cells: Cells, record: Frozen) -> tuple[Frozen, list[str]] | None:
        order = next(one for one in self.refit.orders if one.id == cast(OrderLine, record).order)
        changes: dict[str, Any] = {}
        names: list[str] = []
        for name, field in (("number", "number"), ("ordered", "placed_at"), ("expected", "expected"), ("rate", "rate")):
            text = cells.get(name, "")
            then = [self._said(name, one) for one in (was.get(name, ""), text)]
            if name in cells and then[0] != then[1] and (text or name == "expected"):
                changes[field], names = then[1], [*names, name]
        return (Order.model_validate(dict(order) | changes), names) if changes else None

    def _said(self, name: str, text: str) -> object:
        if name in ("ordered", "expected"):
            return self.day(text) if text else None
        return f"{typed.rate(text):f}" if name == "rate" and text else text
