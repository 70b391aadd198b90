"""What a change does to money, jobs and services, in words: its own money apart from what the rest of the plan does in answer."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rovask.core.explain.compare import Comparison, about_nothing
from rovask.core.plain.money import Money
from rovask.core.plain.words import money, span


def answer_told(answer: Money, own: Money, low: int | None, high: int | None, *, settled: bool) -> str:
    """What the rest of the plan does in answer, in words: about nothing within the noise, a span while searches disagree.

    low, high: minor units between which it lay while both sides were searched.
    """
    nothing = about_nothing(own)
    if not settled:
        return f"{more_or_less(answer)}, still being worked out" if answer else ""
    if low is not None and high is not None and high - low > nothing:
        ends = [Money(one, answer.currency) for one in (low, high)]
        return f"between {signed(ends[0])} and {signed(ends[1])}, still being looked into"
    return more_or_less(answer) if abs(answer.minor) > nothing else ""


def signed(amount: Money) -> str:
    """An amount with its sign."""
    return ("+" if amount.minor >= 0 else "") + money(amount)


def more_or_less(amount: Money) -> str:
    """An amount as more or less."""
    return f"{money(abs(amount))} {'more' if amount.minor > 0 else 'less'}"


def money_told(effect: Mapping[str, Any] | None) -> str:
    """What a change did to the forecast, to jobs and to services of life aboard, in words; "" for nothing."""
    if not effect:
        return ""
    amount = Money(int(effect["money"]), str(effect["currency"]))
    own = Money(int(effect.get("own", effect["money"])), amount.currency)
    words = [f"{money(abs(own))} {'more' if own.minor > 0 else 'less'}"] if own else []
    titles = effect.get("cant") or []
    if titles:
        more = f" and {len(titles) - 2} more" if len(titles) > 2 else ""
        return f"{', '.join(f'“{title}”' for title in titles[:2])}{more} can't be planned, so what it does isn't known"
    told = answer_told(amount - own, own, effect.get("low"), effect.get("high"), settled=bool(effect.get("settled")))
    words += [f"the rest of the plan {told}"] if told else []
    for name, said in (("out", "left out"), ("back", "back in")):
        titles = effect.get(name) or []
        if titles:
            more = f" and {len(titles) - 2} more" if len(titles) > 2 else ""
            words.append(f"{', '.join(f'“{title}”' for title in titles[:2])}{more} {said}")
    for service, minutes in (effect.get("services") or {}).items():  # what was kept before 0.4 has none
        words.append(f"{service} out {span(abs(int(minutes)))} {'longer' if int(minutes) > 0 else 'less'}")
    return "; ".join(words)


def answered(told: Comparison) -> str:
    """The answer of the plan to something that was worked out, as a figure for its page."""
    if not told.settled:
        return signed(told.answer)
    if not told.firm and told.answers is not None:
        ends = (Money(one, told.own.currency) for one in (told.answers.low, told.answers.high))
        return "between " + " and ".join(signed(one) for one in ends)
    return signed(told.answer) if abs(told.answer.minor) > about_nothing(told.own) else "about nothing"
