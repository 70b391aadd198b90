"""How large the bottom and the topsides of a boat are, from her main figures."""

from __future__ import annotations

from rovask.core.refit.givens.choices import Keel
from rovask.core.refit.givens.kinds import Boat

# Share of waterline x (beam + draft) that is wetted. Common handbook estimates, from memory; a measured area overrides.
SHARE = {Keel.LONG: 0.75, Keel.FIN: 0.5, Keel.CENTREBOARD: 0.5, Keel.TWIN: 0.9}
# The handbooks' 0.5 is for a light hull on a deep fin; a moderate one, as most cruisers are, has two thirds (judgement). Which
# she is tells her displacement for her length, in tons over a hundredth of her waterline in feet cubed.
MODERATE_FIN, LIGHT, MODERATE = 2 / 3, 130.0, 230.0
EITHER_WAY = 0.15  # the estimate's range
# Beam of one hull of a multihull as a share of the waterline length: slender hulls of 8:1 to 12:1 (common practice).
HULL_SLENDERNESS = 10.0
BOW_TO_STERN = 0.85  # freeboard at the stern as a share of that at the bow, where it wasn't measured (judgement)
FREEBOARD_SHARE = 0.11  # of the length, at the bow, where it wasn't measured (judgement)
TOPSIDES_FULLNESS = 0.95  # sides curve in at the ends: share of length x freeboard x 2 (judgement)


def estimated_bottom_area(boat: Boat) -> float:
    """Wetted area in m² by the handbook estimate, of all hulls: waterline x (beam + draft) x a share by keel.

    Range: yachts of ordinary form; some 15 % either way. Of a multihull, each hull has the beam of a slender hull.
    """
    if boat.hulls == 1:
        return boat.waterline_m * (boat.beam_m + boat.draft_m) * share_of(boat)
    return boat.hulls * boat.waterline_m * (boat.waterline_m / HULL_SLENDERNESS + boat.draft_m) * SHARE[boat.keel]


def share_of(boat: Boat) -> float:
    """The wetted share of waterline x (beam + draft), by the keel; of a fin keel by how heavy the hull is for its length."""
    if boat.keel is not Keel.FIN or boat.hulls > 1:
        return SHARE[boat.keel]
    heavy = boat.displacement_kg / 1016.05 / (boat.waterline_m / 0.3048 / 100) ** 3
    part = min(max((heavy - LIGHT) / (MODERATE - LIGHT), 0.0), 1.0)
    return round(SHARE[Keel.FIN] + part * (MODERATE_FIN - SHARE[Keel.FIN]), 2)


def bottom_area(boat: Boat) -> float:
    """Wetted area in m²: as measured, else as estimated."""
    return boat.bottom_area_m2 if boat.bottom_area_m2 is not None else estimated_bottom_area(boat)


def area_told(boat: Boat) -> str:
    """How the bottom area of this boat came about, with the figures that were used."""
    if boat.bottom_area_m2 is not None:
        return f"hers, as measured: {boat.bottom_area_m2:g} m²"
    share, area = share_of(boat), estimated_bottom_area(boat)
    between = f"{area * (1 - EITHER_WAY):.0f} to {area * (1 + EITHER_WAY):.0f} m²; measure it once"
    if boat.hulls == 1:
        sides = f"{boat.waterline_m:g} × ({boat.beam_m:g} + {boat.draft_m:g}) × {share:g}"
    else:
        beam = boat.waterline_m / HULL_SLENDERNESS
        sides = f"{boat.hulls} × {boat.waterline_m:g} × ({beam:g} + {boat.draft_m:g}) × {share:g}"
    return f"hers, estimated: {sides} = {area:.1f} m², {between}"


def freeboards(boat: Boat) -> tuple[float, float]:
    """Freeboard in metres at the bow and at the stern: as measured, else a share of the length."""
    bow = boat.freeboard_bow_m if boat.freeboard_bow_m is not None else boat.length_m * FREEBOARD_SHARE
    return bow, boat.freeboard_stern_m if boat.freeboard_stern_m is not None else bow * BOW_TO_STERN


def topsides_area(boat: Boat) -> float:
    """Area in m² of the sides from the waterline to the deck, all hulls, both sides."""
    return boat.hulls * 2 * boat.length_m * sum(freeboards(boat)) / 2 * TOPSIDES_FULLNESS
