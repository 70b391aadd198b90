"""One figure for what is to be bought of a part, wherever it is read."""

from rovask.settings import Settings
from tests.acts import kept_of
from tests.builders import refit, task
from tests.conftest import Sailor, kept_for_both
from tests.web.forms import form_to


def test_the_part_the_request_and_the_order_ask_for_as_much(settings: Settings, sailor: Sailor) -> None:
    """6 L at 180.00 typed, 4 L taken, none counted: 6 L are bought, as typed; with 2.5 L counted 1.5 L, for 45.00."""
    part = {"id": "paint", "name": "Paint", "quantity": 6, "unit": "L", "price": 18000, "supplier": "Ost"}
    uses = [{"id": "u", "task": "a", "part": "paint", "amount": 4}]
    for more, much, price in (({}, "6", "180"), ({"counted": 2.5, "counted_at": settings.clock()}, "1.5", "45")):
        made = refit(task("a", 3) | {"parts": ["paint"]}, parts=[part | more], uses=uses)
        root = f"/r/{kept_for_both(settings, made)}"
        assert f"1. {much} L  Paint" in sailor.get(f"{root}/stores/part/paint/ask").text
        order = sailor.get(f"{root}/stores/new-order?part=paint").text
        assert f'aria-label="How much of Paint" value="{much}"' in order
        assert f'aria-label="Price of Paint" value="{price}"' in order


def test_a_part_that_is_typed_is_tried_for_fit_unless_one_says_otherwise(sailor: Sailor, settings: Settings) -> None:
    pk = kept_for_both(settings, refit(task("a"), haul_at=settings.now))
    form = form_to(sailor.get(f"/r/{pk}/part/new").text, "/part/save")
    assert sailor.post(f"/r/{pk}/part/save", form.data(name="Seacock")).status_code == 303
    assert kept_of(settings, pk).refit.parts[0].must_fit
    bare = {name: value for name, value in form.data(name="Tape").items() if name != "must_fit"}
    assert sailor.post(f"/r/{pk}/part/save", bare | {"mark": "another"}).status_code == 303
    assert not kept_of(settings, pk).refit.parts[1].must_fit
