"""Metal: chain, cable, unlike metals side by side."""

from __future__ import annotations

from dataclasses import dataclass

# kg/m per mm² of link thickness of short link steel chain: DIN 766 has 1.4, 2.25 and 3.3 kg/m for 8, 10 and 12 mm (from
# memory: 0.0219 to 0.0229); labels of makers were seen from 3 % under to 8 % over.
CHAIN, CHAIN_LEAST, CHAIN_MOST = 0.0225, 0.97, 1.08
SECTIONS = (0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0)  # mm², as sold
COPPER = 0.0164  # ohm mm²/m, as ISO 10133 takes it for copper at 20 °C (from memory)


def chain_mass(metres: float, size: float) -> float:
    """Mass in kg of short link chain ``size`` mm thick.

    >>> round(chain_mass(55, 8), 1)
    79.2
    """
    return CHAIN * size**2 * metres


def section_for(amps: float, metres: float, volts: float, drop: float) -> float:
    """Copper section in mm² for a voltage drop of ``drop`` (share): 0.0164 I L / dU, L out and back (ISO 10133 form).

    metres: one way. volts: of the battery.

    >>> round(section_for(10, 5, 12, 0.03), 2)
    4.56
    """
    return COPPER * amps * 2 * metres / (volts * drop)


def sold_section(section: float) -> float | None:
    """The next section sold; None when it is larger than any.

    >>> sold_section(4.56), sold_section(1000)
    (6.0, None)
    """
    return next((one for one in SECTIONS if one >= section - 1e-9), None)


# The most current in A that a single copper conductor of a section (mm²) carries for good, by what its insulation stands
# in °C: ISO 10133, table A.1 (from memory; the standard and the cable's own sheet come first).
AMPACITY = {
    70: (10, 14, 18, 25, 35, 45, 65, 90, 120, 160, 210, 265, 310, 360, 380),
    90: (12, 18, 21, 30, 40, 50, 70, 100, 140, 185, 230, 285, 330, 400, 430),
    105: (16, 20, 25, 35, 45, 60, 90, 130, 170, 210, 270, 330, 390, 450, 475),
}
IN_HEAT = {
    70: 0.75,
    90: 0.82,
    105: 0.86,
}  # of that in an engine space, up to 60 °C (the same table's note, from memory)
IN_BUNDLE = {
    "3": 1.0,
    "6": 0.7,
    "24": 0.6,
    "25": 0.5,
}  # with up to so many in one bundle, 25: more (ISO 13297, from memory)
FUSES = (
    1, 2, 3, 5, 7.5, 10, 15, 20, 25, 30, 40, 50, 60, 70, 80, 100, 125, 150, 175, 200, 225, 250, 300, 350, 400
)  # A, as sold  # fmt: skip
FUSE_OVER = 1.25  # of the current that flows for long (common practice)


def ampacity(section: float, stands: int, bundle: str, *, heat: bool) -> float:
    """What a section that is sold carries for good, in A. stands: °C of its insulation; bundle: a key of IN_BUNDLE.

    >>> ampacity(2.5, 70, "3", heat=False), round(ampacity(16, 70, "6", heat=True), 1)
    (25.0, 47.2)
    """
    free = AMPACITY[stands][SECTIONS.index(section)]
    return free * (IN_HEAT[stands] if heat else 1.0) * IN_BUNDLE[bundle]


def fuse_for(amps: float) -> float | None:
    """The smallest fuse sold that lets a steady current pass without warming up; None above the largest.

    >>> fuse_for(80), fuse_for(6), fuse_for(1000)
    (100, 7.5, None)
    """
    return next((one for one in FUSES if one >= amps * FUSE_OVER - 1e-9), None)


def section_to_carry(amps: float, stands: int, bundle: str, *, heat: bool) -> float | None:
    """The smallest section sold that its own fuse protects: it carries for good what that fuse lets pass. None: none does."""
    fuse = fuse_for(amps)
    if fuse is None:
        return None
    return next((one for one in SECTIONS if ampacity(one, stands, bundle, heat=heat) >= fuse), None)


def drop_of(amps: float, metres: float, volts: float, section: float) -> float:
    """The share of the voltage lost in a section of ``section`` mm²."""
    return COPPER * amps * 2 * metres / section / volts


@dataclass(frozen=True, slots=True)
class Metal:
    """A metal of the trade with its potential in flowing sea water against silver chloride, volts (from memory)."""

    key: str
    name: str
    volts: float


# In order of nobility in sea water, the one that is eaten first. Mean values of the galvanic series in flowing sea water as
# ASTM G82 and handbooks print it (lead -0.19 to -0.25, mild steel -0.60 to -0.71 V), from memory.
METALS = (
    Metal("magnesium", "magnesium", -1.61),
    Metal("zinc", "zinc", -1.03),
    Metal("aluminium", "aluminium (5000 series)", -0.86),
    Metal("steel", "steel, iron", -0.63),
    Metal("stainless_starved", "stainless, starved of air", -0.50),
    Metal("brass", "brass", -0.36),
    Metal("copper", "copper", -0.33),
    Metal("bronze", "bronze", -0.28),
    Metal("cupronickel", "copper-nickel", -0.25),
    Metal("lead", "lead", -0.22),
    Metal("monel", "nickel-copper", -0.08),
    Metal("stainless", "stainless, in moving water", -0.05),
    Metal("titanium", "titanium", 0.0),
    Metal("carbon", "carbon fibre, graphite", 0.25),
)
TROUBLE = 0.20  # volts between metals from which one eats the other (common practice)


def metal_of(key: str) -> Metal:
    """The metal of that name. Raises KeyError."""
    return next(metal for metal in METALS if metal.key == key)
