"""The demo's stores and purse as they stand on day 9, from purse.toml: added to the refit once its work is recorded."""

from __future__ import annotations

import tomllib
from collections import defaultdict
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

BOOKS = tomllib.loads(Path(__file__).with_name("purse.toml").read_text(encoding="utf-8"))


def rates(haul: datetime) -> list[dict[str, Any]]:
    """The rates of exchange that were noted."""
    return [
        {"id": f"rate{at}", "currency": currency, "base": "EUR", "rate": rate, "at": _day(haul, day), "source": by}
        for at, (currency, rate, day, by) in enumerate(BOOKS["rates"], 1)
    ]


def with_books(data: dict[str, Any], haul: datetime) -> dict[str, Any]:
    """The refit's plain data with suppliers, orders, deliveries, agreements and the ledger."""
    ordered = {(order, part) for order, part, *_ in BOOKS["lines"]}
    word_of = {part for _, part in ordered}
    data["parts"] = [_had(row, word_of) for row in data["parts"]] + [_part(row, haul) for row in BOOKS["parts"]]
    for row in data["parts"]:
        row |= {
            "must_fit": row["must_fit"] or row["id"] in BOOKS["must_fit"],
            "hazardous": row["id"] in BOOKS["hazardous"],
            "substitute": row["id"] in BOOKS["substitute"],
            "dimension": BOOKS["dimension"].get(row["id"], ""),
            "pack": BOOKS["pack"].get(row["id"]),
        }
    users = defaultdict(list)
    for task, part, _ in BOOKS["uses"]:
        users[task].append(part)
    for job in data["jobs"]:
        for task in job["tasks"]:
            task["parts"] = [*task["parts"], *users[task["id"]]]
    data["uses"] = [
        {"id": f"use{at}", "task": task, "part": part, "amount": amount}
        for at, (task, part, amount) in enumerate(BOOKS["uses"], 1)
    ]
    data["budget"] = BOOKS["budget"]
    data["yard"] |= {
        "tariff": BOOKS["tariff"],
        "meter": [{"at": _day(haul, day), "kwh": kwh} for day, kwh in BOOKS["meter"]],
    }
    return data | _bought(haul) | _money(haul)


def _day(haul: datetime, day: float, hours: float = 2) -> str:
    return (haul + timedelta(days=day - 1, hours=hours)).isoformat()


def _had(row: dict[str, Any], ordered: set[str]) -> dict[str, Any]:
    """A part of demo.toml: where there is an order, that tells how far it has come."""
    return row | ({"status": "needed", "arrives": None} if row["id"] in ordered else {})


def _part(row: list[Any], haul: datetime) -> dict[str, Any]:
    key, name, quantity, unit, supplier, price, lead, had, lies, where = row
    counted = {"counted": had, "counted_at": _day(haul, 1, 1)} if had >= 0 else {}
    return {
        "id": key, "name": name, "quantity": quantity, "unit": unit, "supplier": supplier, "price": price,
        "lead_days": lead, "lies": lies, "stowed": where, "must_fit": False,
    } | counted  # fmt: skip


def _bought(haul: datetime) -> dict[str, Any]:
    lines = {(order, part): f"{order}-{part}" for order, part, *_ in BOOKS["lines"]}
    shut = BOOKS["customs_shut"]
    return {
        "suppliers": [
            {
                "id": key, "name": name, "what": what, "town": town, "currency": currency or None,
                "open_days": days.split(), "away_hours": hours, "contact": contact, "returns": returns,
                "by_service": key in BOOKS["by_service"],
                "shut": [{"first": shut[0], "last": shut[1], "reason": shut[2]}] if key == "customs" else [],
            }
            for key, name, what, town, currency, days, hours, contact, returns in BOOKS["suppliers"]
        ],
        "orders": [
            {
                "id": key, "supplier": supplier, "currency": currency, "rate": rate, "number": number,
                "placed_at": _day(haul, placed), "state": state, "expected": _day(haul, due) if due else None,
                "freight": freight, "made": made, "note": note,
                "steps": [{"at": _day(haul, placed), "state": "placed"}],
            }
            for key, supplier, currency, rate, number, placed, state, due, freight, made, note in BOOKS["orders"]
        ],
        "order_lines": [
            {"id": lines[order, part], "order": order, "part": part, "quantity": much, "price": price,
             "price_most": most or None}
            for order, part, much, price, most in BOOKS["lines"]
        ],
        "receipts": [
            {
                "id": f"r{at}", "line": lines[order, part], "at": _day(haul, day), "quantity": much,
                "condition": condition, "lies": "yard shed" if where.startswith("yard shed") else "aboard",
                "stowed": where.removeprefix("yard shed, "), "off_by": off, "remedy": then or None,
                "tried_at": _day(haul, day, 3) if condition in ("fits", "does not fit") else None,
            }
            for at, (order, part, day, much, condition, where, off, then) in enumerate(BOOKS["receipts"], 1)
        ],
        "offers": [
            {
                "id": f"of{at}", "part": part, "supplier": supplier, "what": what, "form": form, "currency": currency,
                "rate": rate, "price": price, "freight": freight, "duty": duty, "tax": tax, "lead_least": least,
                "lead_days": likely, "lead_most": most, "misfit": misfit, "returns": returns,
                "quantity": next((row["quantity"] for row in _quantities(part)), 1),
                "state": "chosen" if part == "bearing" else "offered",
            }
            for at, (part, supplier, what, form, currency, rate, price, freight, duty, tax, least, likely, most, misfit,
                     returns) in enumerate(BOOKS["offers"], 1)
        ],
    }  # fmt: skip


def _quantities(part: str) -> list[dict[str, Any]]:
    return [{"quantity": {"anti": 10, "lights": 3, "chain": 60}.get(part, 1)}]


def _money(haul: datetime) -> dict[str, Any]:
    entries = []
    for at, (kind, title, day, party, number, currency, rate, amount, of, against) in enumerate(BOOKS["entries"], 1):
        home = {"charge": of.partition(":")[2]} if of.startswith("yard:") else {}
        if of and not home:
            home = {"order" if of.startswith("o") else "agreement": of}
        entries.append(
            {
                "id": f"e{at}", "kind": kind, "title": title, "at": _day(haul, day, 1), "party": party, "number": number,
                "currency": currency, "rate": rate, "amount": amount, "against": f"e{against}" if against else None,
            }
            | home
        )  # fmt: skip
    return {
        "budget_lines": [
            {"id": key, "title": title, "amount": amount, "sections": sections, "contingency": contingency}
            for key, title, amount, sections, contingency in BOOKS["budget_lines"]
        ],
        "draws": [
            {"id": f"d{at}", "title": title, "amount": amount, "source": "bl-cont", "to": to, "at": _day(haul, day)}
            for at, (title, amount, to, day) in enumerate(BOOKS["draws"], 1)
        ],
        "agreements": [
            {
                "id": key, "title": title, "party": party, "person": person, "job": job or None, "form": form,
                "currency": currency, "rate": rate, "deposit": deposit, "hold_back": held, "at": _day(haul, agreed),
                "line": BOOKS["agreement_line"].get(key),
                "accepted_at": _day(haul, accepted) if accepted else None,
                ("price" if form == "fixed price" else "rate_of_pay"): pay,
            }
            for key, title, party, person, job, form, currency, rate, pay, deposit, held, agreed, accepted in BOOKS[
                "agreements"
            ]
        ],
        "entries": entries,
    }  # fmt: skip
