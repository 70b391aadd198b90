"""Stores and books for generated refits, of any size and the same for the same seed: for benches and tests."""

from __future__ import annotations

from datetime import timedelta
from random import Random
from typing import Any

from rovask.core.refit.model import Refit

RATES = {"EUR": "1", "GBP": "1.1702", "USD": "0.9137", "NOK": "0.0861"}
CONDITIONS = ("fits", "fits", "fits", "arrived", "does not fit", "lost")


def with_books(refit: Refit, seed: int, *, parts: int = 800, orders: int = 300, entries: int = 5000) -> Refit:
    """The refit with so many parts, orders and entries of the ledger more; a tenth of the orders still under way."""
    random, at = Random(seed), refit.haul_at

    def day(spread: int) -> str:
        return (at + timedelta(days=random.randint(-20, spread), hours=random.randint(0, 9))).isoformat()

    data: dict[str, Any] = {}
    data["parts"] = [
        *refit.parts,
        *(
            {
                "id": f"more{n}", "name": f"Part {n}", "quantity": random.randint(1, 9), "unit": random.choice(["", "m", "L"]),
                "supplier": f"Supplier {n % 40}", "price": random.randint(100, 40000), "lead_days": random.randint(1, 12),
                "counted": random.choice([None, 1.0, 3.0]),
            }
            for n in range(parts)
        ),
    ]  # fmt: skip
    for row in data["parts"]:
        if isinstance(row, dict) and row["counted"] is not None:
            row["counted_at"] = at.isoformat()
    data["suppliers"] = [
        {"id": f"s{n}", "name": f"Supplier {n}", "open_days": ["mon", "tue", "wed", "thu", "fri"]} for n in range(40)
    ]
    rows = [(f"o{n}", random.choice(list(RATES))) for n in range(orders)]
    data["orders"] = [
        {
            "id": key, "supplier": f"Supplier {n % 40}", "number": f"N{n}", "currency": currency, "rate": RATES[currency],
            "placed_at": day(0), "expected": day(20), "freight": random.randint(0, 900), "tax": 21,
        }
        for n, (key, currency) in enumerate(rows)
    ]  # fmt: skip
    data["order_lines"] = [
        {
            "id": f"{key}-{n}",
            "order": key,
            "part": f"more{random.randrange(parts)}",
            "quantity": 1,
            "price": random.randint(50, 9000),
        }
        for key, _ in rows
        for n in range(2)
    ]
    data["receipts"] = [
        {
            "id": f"r-{line['id']}",
            "line": line["id"],
            "at": day(0),
            "quantity": 1,
            "condition": random.choice(CONDITIONS),
        }
        for line in data["order_lines"]
        if random.random() < 0.9
    ]
    currency_of = dict(rows)
    data["entries"] = []
    for n in range(entries):
        order = random.choice([*currency_of, None, None])
        currency = currency_of[order] if order else "EUR"
        data["entries"].append(
            {
                "id": f"e{n}", "kind": random.choice(["invoice", "payment", "payment", "credit note"]), "title": f"Entry {n}",
                "at": day(3), "party": f"Supplier {n % 40}", "number": f"F{n}", "currency": currency, "rate": RATES[currency],
                "amount": random.randint(100, 20000), "order": order,
            }
        )  # fmt: skip
    data["budget_lines"] = [{"id": "all", "title": "All", "amount": 500000, "sections": ["other", "yard"]}]
    return Refit.model_validate({name: getattr(refit, name) for name in Refit.model_fields} | data)
