"""The table of order: what is done before what, across jobs, and why. One table for the planner and for the recipes.

DEEDS holds in one place of the boat, whatever the jobs are (trade_order.py keeps the planner to it). ROWS are ties between
steps of two recipes, made when both jobs are in a refit, whichever came first (recipes/expand.py). A tie of the sailor's own
that says otherwise wins. All of it is common practice; waits are hours at 20 °C where they cure, and where a product's
sheet says another figure, the sheet's.
"""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.refit.work.choices import Deed

DEEDS: tuple[tuple[Deed, Deed, str], ...] = (
    (Deed.SEALS, Deed.COATS, "a repair is sealed before the coat over it"),
    (Deed.SANDS, Deed.COATS, "sanded before the coat in the same place"),
    (Deed.WETS, Deed.COATS, "washed and rinsed before the coat in the same place"),
    (Deed.OPENS, Deed.COATS, "opened before the coat in the same place"),
    (Deed.ALIGNS, Deed.SETS, "aligned before the compression is set"),
    (Deed.TESTS, Deed.COVERS, "tested before it is covered"),
)


@dataclass(frozen=True, slots=True)
class Row:
    """``first`` ends before ``then`` begins. An end is ``recipe.step``; of ``recipe.a|b`` the first step that is kept.

    lag, window: elapsed hours between them, as formulas of the recipe of ``first`` (by_then: of ``then``); when: a
    condition of the same. make_good_hours, make_good: what a missed window costs.
    """

    first: str
    then: str
    why: str
    lag: str = "0"
    window: str | None = None
    cures: bool = False
    when: str = ""
    by_then: bool = False
    make_good_hours: str | None = None
    make_good: str = ""

    def as_tie(self) -> dict[str, object]:
        """The fields of a recipe's tie."""
        return {
            "first": self.first,
            "then": self.then,
            "lag": self.lag,
            "window": self.window,
            "cures": self.cures,
            "make_good_hours": self.make_good_hours,
            "make_good": self.make_good,
            "why": self.why,
            "when": self.when,
        }


_FIRST_COAT = "bottom-coating.prime|coat1|hard1"  # the first coat that is kept: most boats drop the primer
_LAST_COAT = "bottom-coating.edges|hard2"
_FIRST_BARRIER, _LAST_BARRIER = "barrier.coat1", "barrier.coat4|coat3"
_LAY = "laminate.seal"


def _under(step: str, why: str, lag: str = "12") -> tuple[Row, ...]:
    """What is closed under the bottom's coats: before the barrier, and before the first coat where there is none."""
    return (Row(step, _FIRST_BARRIER, why, lag, cures=True), Row(step, _FIRST_COAT, why, lag, cures=True))


def _aloft(step: str) -> tuple[Row, ...]:
    """Somebody goes up only on a mast whose stays are all on: before it comes out, after plates and stays are back."""
    return (
        Row(step, "mast-out.ready", "aloft while she is fully stayed"),
        Row("chainplates.load|paint", step, "nobody goes aloft while a plate is out", when="mast == 'up'"),
        Row("bow-roller.stay", step, "nobody goes aloft while the forestay is off"),
        Row("standing-rigging.tune", step, "nobody goes aloft while a stay is off"),
    )


ROWS: tuple[Row, ...] = (
    # the bottom, from the laminate outwards
    *_under(_LAY, "repair sealed"),
    *_under("keel-joint.seal", "joint sealed"),
    *_under("keel-bonds.seal", "joints sealed"),
    *_under("void.fair", "closed and sealed"),
    *_under("blisters.seal", "repairs sealed"),
    *_under("through-hull-move.fair", "old hole closed and sealed"),
    *_under("keel-bolt.close", "bolt's pocket closed"),
    Row("laminate.fair1", "bottom-coating.sand|dry", "rough work before the bottom is sanded"),
    Row("keel-joint.fair1", "bottom-coating.sand|dry", "rough work before the bottom is sanded"),
    Row("blisters.fair", "bottom-coating.sand|dry", "repairs faired before the bottom is sanded"),
    Row("blisters.open", "barrier.wash", "blisters opened before the hull is rinsed and dried"),
    Row("barrier.peel|strip|scrape|blast", "blisters.open", "stripped first: then every blister shows"),
    Row("blisters.seal", "barrier.key", "repairs sealed before it is keyed", "16", cures=True),
    Row("barrier.peel|strip|scrape|blast", "laminate.taper", "stripped before the taper is cut"),
    Row("through-hulls.bed", _FIRST_BARRIER, "fittings bedded before the barrier", "16", when="fitted == 'before'"),
    Row(_LAST_BARRIER, "through-hulls.bed", "bedded on the cured barrier", "48", cures=True, when="fitted == 'after'", by_then=True),
    Row("through-hulls.out", _FIRST_BARRIER, "old fittings out, so that the edge of each hole gets its coats", when="fitted == 'after'"),
    Row("through-hulls.bed", _FIRST_COAT, "fittings bedded before the coat", "16"),
    Row("through-hull-move.bed", _FIRST_COAT, "fitting bedded before the coat", "16"),
    Row("through-hull-move.bed", _FIRST_BARRIER, "fitting bedded before the barrier", "16"),
    Row("metal-valves.prime", "steel-coating.blast", "welded before she is blasted"),
    Row("metal-valves.prime", _FIRST_COAT, "welds primed before the coat", "8", cures=True),
    Row("instruments.bed", _FIRST_BARRIER, "transducers bedded before the barrier", "24", cures=True),
    Row("instruments.bed", _FIRST_COAT, "transducers bedded before the coat", "24", cures=True),
    Row("bottom-coating.scrape", "barrier.key", "scraped before it is keyed"),
    Row(
        _LAST_BARRIER, _FIRST_COAT, "first antifouling while the barrier takes a thumb's print", "4", window="tacky",
        cures=True, make_good_hours="bottom_area * 0.12", make_good="abrade with 80 grit and wipe, or a tie coat",
    ),
    Row("bottom-coating.patch", "barrier.patch", "scraped before they are stripped"),
    Row(
        "barrier.patch4|patch3", "bottom-coating.patchprime|patch1|patchhard1", "antifouling while the patches take a thumb's print", "4",
        window="tacky", cures=True, make_good_hours="1", make_good="abrade with 80 grit and wipe",
    ),
    Row(_LAST_COAT, "barrier.pads|reblock", "all coats on before the pads are moved", "8", cures=True),
    Row("iron-keel.coat4", _FIRST_COAT, "keel's epoxy before its antifouling", "4", window="48", cures=True, make_good_hours="2", make_good="abrade and wipe"),
    Row("iron-keel.coat1", "keel-joint.fair1", "keel's iron safe before the joint is faired", "12", cures=True),
    Row("keel-joint.seal", "iron-keel.coat2", "joint sealed under the keel's last coats", "12", cures=True),
    Row("keel-joint.down|fill|lay", "iron-keel.blast", "joint closed before the keel is blasted", "12", cures=True),
    Row("keel-bolt.back", "keel-joint.lower|tension|taper", "every bolt back before the joint is worked at"),
    Row("keel-bolt.close", "iron-keel.blast", "bolt's pocket closed before the keel is blasted"),
    Row("steel-plating.paint", "steel-coating.blast", "welded inside and out before she is blasted"),
    Row("steel-plating.weld|dye", _FIRST_COAT, "plates welded before the coat"),
    Row("steel-coating.coat5|coat4", _FIRST_COAT, "antifouling in the window of the last epoxy", "5", window="48", cures=True, make_good_hours="bottom_area * 0.12", make_good="abrade and wipe"),
    Row("rudder.prime", "bottom-coating.coat1|hard1", "the blade is coated with the rest", "8", cures=True),
    Row("rudder.hang", _LAST_COAT, "hung before the last coat along the edges"),
    Row("drive-leg.prime3", "bottom-coating.mask", "leg's own coating before the hull's is masked off it", "8", cures=True),
    Row("propeller-coating.coat", "propeller.on", "coated off the boat, before it goes on", "12", cures=True, when="where == 'bench'"),
    Row(_LAST_COAT, "propeller-coating.prime", "sprayed beside no wet bottom", "8", cures=True, when="where == 'shaft'", by_then=True),
    # topsides, boot line, antifouling: from above down
    Row("bottom-coating.sand|dry", "topsides.wax|under1|film", "dust and drips below first"),
    Row("barrier.key", "topsides.wax|under1|film", "dust below first"),
    Row("hull-deck-joint.seal", "topsides.under1|film", "joint sealed before the paint below it", "24", cures=True),
    Row("topsides.coat2|two2|spray|film|wax", "boot-top.mask", "topsides hard before tape goes on them", "24", cures=True),
    Row("topsides.coat2|two2|spray|film|wax", "bottom-coating.mask", "topsides hard before tape goes on them", "24", cures=True),
    Row("boot-top.coat2|anti2", "bottom-coating.mask", "boot line hard before tape goes on it", "24", cures=True),
    Row("barrier.key", "boot-top.coat1|anti1", "dust below first"),
    Row("boot-top.coat2|anti2", "barrier.mask", "boot line hard before tape goes on it; antifouling follows the barrier while it is tacky", "24", cures=True),
    Row("topsides.coat2|two2|spray|film|wax", "barrier.mask", "topsides hard before tape goes on them", "24", cures=True),
    Row("bottom-coating.mask", "barrier.coat1", "masked once, before the barrier"),
    Row("bottom-coating.sand|dry", "boot-top.coat1|anti1", "dust below first"),
    Row("steel-coating.blast2", "topsides.sand|flat|cut", "blasted before the topsides are begun"),
    Row("steel-coating.patch4", "bottom-coating.patchprime|patch1|patchhard1", "antifouling in the window of the last epoxy", "5", window="48", cures=True, make_good_hours="1", make_good="abrade and wipe"),
    Row(_LAST_COAT, "steel-coating.pads", "all coats on before the pads are moved", "8", cures=True),
    Row("bottom-coating.sand|dry", "steel-coating.tent", "loose paint off before she is tented"),
    # what is bare stays bare
    Row(_LAST_COAT, "anodes.on", "never painted", "6", cures=True),
    Row("bottom-coating.patch4|patch3|patch2|patch1|patchhard2", "anodes.on", "never painted"),
    Row("shaft-bearing.prop", "anodes.on", "shaft anode last"),
    Row("propeller.on", "anodes.on", "shaft anode last"),
    Row("propeller-coating.coat", "anodes.on", "propeller's anode stays bare"),
    Row("anodes.prove|apart", "bottom-coating.mask", "known which fittings stay bare before they are masked"),
    # drive train
    Row("shaft-bearing.draw", "face-seal.off", "shaft out of the way"),
    Row("shaft-bearing.in", "face-seal.fit|pack", "the shaft is in"),
    Row("face-seal.fit|pack", "shaft-bearing.couple", "seal on the shaft before it is coupled"),
    Row("face-seal.off", "shaft-bearing.in", "tube clean"),
    Row("shaft-bearing.uncouple", "engine-mounts.out", "uncoupled before the engine is lifted"),
    Row("face-seal.uncouple", "engine-mounts.out", "uncoupled before the engine is lifted"),
    Row("engine-mounts.in", "shaft-bearing.couple", "engine at its height"),
    Row("engine-mounts.in", "face-seal.couple", "engine at its height"),
    Row("engine-mounts.align", "face-seal.set", "aligned before the compression is set"),
    Row("shaft-bearing.couple", "engine-mounts.align", "coupled before aligning"),
    Row("face-seal.couple", "engine-mounts.align", "coupled before aligning"),
    Row("shaft-bearing.in", "propeller.on", "the shaft is in before the propeller goes on it"),
    Row("shaft-bearing.draw", "propeller-coating.prime", "shaft out of the way", when="where == 'shaft'", by_then=True),
    Row("rudder.off", "shaft-bearing.draw", "rudder out of the shaft's way"),
    Row("shaft-bearing.in", "rudder.hang", "shaft in before the rudder stands behind it"),
    Row("engine-mounts.out", "raw-water.fit", "room behind the engine"),
    Row("exhaust.fit", "raw-water.clamp", "exhaust hoses in before the circuit is closed"),
    Row("through-hulls.valves|hoses", "raw-water.clamp", "inlet valve in"),
    Row("metal-valves.valves", "raw-water.clamp", "inlet valve in"),
    Row("valve-service.back", "raw-water.clamp", "inlet valve works"),
    Row("engine-mounts.align", "engine-service.filters", "lifted and aligned before it is filled"),
    Row("fuel-tank.close", "engine-service.bleed", "clean fuel before new filters are bled"),
    Row("drive-leg.prime1", "bottom-coating.coat1|hard1", "leg's metal covered before copper dust and drips are about"),
    # water inside
    Row("through-hulls.valves|hoses", "heads.hose", "valve in before its hose"),
    Row("metal-valves.valves", "heads.hose", "valve in before its hose"),
    Row("through-hulls.bed", "bilge-pumps.hose", "outlet in before its hose"),
    Row("through-hulls.valves|hoses", "cold-plate.hose", "valve in before its hose"),
    Row("floors.coat2", "bilge-pumps.fit", "painted before pipes", "24", cures=True),
    Row("floors.coat2", "panel.runs", "painted before cables", "24", cures=True),
    Row("floors.coat2", "heads.hose", "painted before pipes", "24", cures=True),
    Row("floors.coat2", "water-system.pipes", "painted before pipes", "24", cures=True),
    Row("steel-plating.inside", "floors.sand", "rust out before the bilge is painted"),
    Row("keel-joint.bolts", "floors.sand", "bolts looked at before paint covers them"),
    Row("keel-bolt.back", "floors.coat1", "bolt back before the bilge is painted"),
    Row("mast-out.step", "floors.coat1", "step mended before the bilge is painted"),
    Row("bilge-pumps.test", "floors.down", "tested before it is covered"),
    Row("water-system.test", "floors.down", "tested before it is covered"),
    Row("heads.test", "floors.down", "tested before it is covered"),
    # cables
    Row("panel.fit", "bilge-pumps.wire", "feed is there"),
    Row("panel.test", "windlass.try", "breaker is there"),
    Row("batteries.fit", "panel.test", "batteries in before circuits are loaded"),
    Row("panel.runs", "ceilings.back", "cables before panels"),
    Row("panel.fit", "pilot.wire", "feed is there"),
    Row("heater.flue", "ceilings.back", "flue before panels"),
    # deck and inside
    Row("chainplates.load|paint", "ceilings.back", "panels closed last"),
    Row("portlights.hose", "ceilings.back", "dry before panels close over it"),
    Row("hull-deck-joint.hose", "ceilings.back", "dry before panels close over it"),
    Row("stanchions.wires", "ceilings.back", "nuts reached before panels close over them"),
    Row("stanchions.bed", "non-skid.sand", "bedded before the deck is painted", "24", cures=True),
    Row("chainplates.load|paint", "non-skid.sand", "bedded before the deck is painted"),
    Row("hatches.bed", "non-skid.sand", "bedded before the deck is painted", "24", cures=True),
    Row("windlass.bed", "non-skid.sand", "bedded before the deck is painted", "24", cures=True),
    Row("bow-roller.bed", "non-skid.sand", "bedded before the deck is painted", "24", cures=True),
    Row("hull-deck-joint.seal", "non-skid.sand", "sealed before the deck is painted", "24", cures=True),
    Row("mast-out.deck", "non-skid.sand", "deck mended before it is painted", "24", cures=True),
    Row("non-skid.sand", "varnish.coat1", "dust on deck first"),
    Row("windlass.try", "chain.stow", "windlass in"),
    Row("bow-roller.bed", "chain.stow", "roller in", "24", cures=True),
    Row("ground-tackle.ends", "chain.stow", "ends made before it is stowed"),
    Row("bow-roller.bed", "windlass.try", "chain needs its roller", "24", cures=True),
    # the mast and what hangs on it
    *_aloft("furler.foil"),
    *_aloft("nav-lights.aloft"),
    *_aloft("instruments.aerial"),
    *_aloft("running-rigging.sheaves"),
    Row("rig-look.aloft", "mast-out.ready", "aloft while she is fully stayed"),
    Row("rig-look.aloft", "chainplates.jury|rust", "aloft before a plate is out; what is found there needs its days", when="mast == 'up'", by_then=True),
    Row("rig-look.aloft", "standing-rigging.support", "aloft before a stay is off"),
    Row("rig-look.aloft", "bow-roller.support", "aloft before the forestay is off"),
    Row("standing-rigging.measure", "chainplates.jury|rust|out", "measured while every plate holds"),
    Row("standing-rigging.measure", "bow-roller.support", "measured while the forestay stands"),
    Row("standing-rigging.measure", "mast-out.ready", "measured while it is loaded"),
    Row("chainplates.load|paint", "mast-out.ready", "plates back before the mast is made ready", when="mast == 'up'"),
    Row("mast-out.out|down", "chainplates.out", "the mast is out before plates are", when="mast == 'out'", by_then=True),
    Row("chainplates.load|paint", "mast-out.back|up", "plates hold the load", when="mast == 'out'"),
    Row("mast-out.out|down", "standing-rigging.swap", "with the mast down"),
    Row("standing-rigging.swap", "mast-out.back|up", "stays on before it goes back"),
    Row("mast-out.out|down", "standing-rigging.apart", "with the mast down"),
    Row("standing-rigging.together", "mast-out.back|up", "forestay whole before it goes back"),
    Row("furler.down", "standing-rigging.foil", "sail off before the foil"),
    Row("standing-rigging.refit|together", "furler.bend", "forestay and foil in before the sail"),
    Row("mast-out.back|up", "standing-rigging.tune", "mast up"),
    Row("chainplates.load|paint", "standing-rigging.support", "plates hold the load", when="mast == 'up'"),
    Row("chainplates.load|paint", "bow-roller.support", "one thing at a time holds the mast", when="mast == 'up'"),
    Row("bow-roller.stay|bed", "standing-rigging.support", "one thing at a time holds the mast", "24", cures=True),
    Row("mast-out.out|down", "rig-look.bench", "at the bench, while it lies ashore"),
    Row("rig-look.bench", "mast-out.back|up", "looked at before it goes back"),
    Row("mast-out.out|down", "furler.bench", "at the bench, while it lies ashore"),
    Row("furler.bench", "mast-out.back|up", "before it goes back"),
    Row("mast-out.out|down", "nav-lights.bench", "at the bench, while it lies ashore"),
    Row("nav-lights.bench", "mast-out.back|up", "before it goes back"),
    Row("mast-out.out|down", "instruments.bench", "at the bench, while it lies ashore"),
    Row("instruments.bench", "mast-out.back|up", "before it goes back"),
    Row("mast-out.out|down", "running-rigging.bench", "at the bench, while it lies ashore"),
    Row("running-rigging.bench", "mast-out.back|up", "before it goes back"),
    Row("mast-out.boom", "running-rigging.reeve", "mast up"),
    Row("furler.down", "mast-out.ready", "sail off before the mast is made ready"),
    Row("mast-out.boom", "furler.bend", "mast up"),
    Row("mast-out.boom", "nav-lights.see", "mast up and wired"),
    Row("mast-out.out|down", "bow-roller.off", "the forestay is off it"),
    Row("bow-roller.bed", "mast-out.back|up", "the forestay needs it", "24", cures=True),
    Row("bow-roller.bed", "ground-tackle.back", "roller in", "24", cures=True),
    Row("furler.bend", "sails.bend", "furler in before its sail"),
    Row("mast-out.boom", "sails.bend", "mast up"),
    Row("sails.off", "mast-out.ready", "sails off before the mast is made ready"),
    Row("sails.off", "standing-rigging.support", "sails off before a stay is"),
    Row("sails.off", "furler.down", "sails off first"),
    Row("standing-rigging.tune", "sails.bend", "stays tuned before the sails are on"),
    Row("mast-out.deck", "ceilings.back", "deck under the step mended before panels close"),
    # steering
    Row("rudder.hang", "steering-gear.tension|stops|tiller", "rudder hung"),
    Row("steering-gear.tension|stops", "pilot.set", "stops set before the pilot learns them"),
    Row("rudder.hang|ship", "twin-rudders.set", "rudders hung before they are set to each other"),
    Row("twin-rudders.set", "steering-gear.tension|stops", "rudders alike before the wheel is set to them"),
    # planks
    Row("wood-plank.caulk", _FIRST_COAT, "seams skinned before they are painted", "24"),
    Row("wood-seams.pay", _FIRST_COAT, "seams skinned before they are painted", "24"),
    Row("wood-fastenings.bung", _FIRST_COAT, "bungs' glue hard before they are painted", "12"),
    Row("wood-fastenings.bung", "wood-seams.rake", "fastened before it is caulked"),
    Row("wood-plank.hang", "wood-seams.caulk", "planks hung before the seams beside them are caulked"),
    Row("wood-ribs.fasten", "wood-plank.hang", "frames sound before a plank is hung on them"),
    Row("wood-ribs.fasten", "wood-fastenings.renew", "frames sound before anything is driven into them"),
    # two masts, posts
    Row("mast-post.wedge", "mizzen.tune", "post packed before the rig is set up"),
    Row("mast-out.boom", "mizzen.tune", "both masts up before they are set up"),
    Row("mast-post.tune", "standing-rigging.tune", "post packed before the rig is tuned"),
    # two hulls
    Row("cross-beam.back", "nets.lace", "beam back before the nets hang on it"),
    Row("mast-out.out|down", "cross-beam.off", "the forestay is off the beam"),
    Row("cross-beam.back", "mast-out.back|up", "the forestay's beam is back"),
)  # fmt: skip
