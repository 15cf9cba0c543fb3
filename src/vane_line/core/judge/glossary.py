"""The words that the screens use, each in a sentence or two. The pages keep no list of their own."""

from __future__ import annotations

GLOSSARY: dict[str, str] = {
    "answer line": "The line over the findings: not yet, stop, cut no more, or cannot say, and why.",
    "attempt": "One scan of the preparation, with what was measured on it. The next scan makes the next attempt.",
    "axial wall": "A side of the preparation, from the finish line up to the edge of the occlusal surface.",
    "cavosurface angle": "Between the ledge and the uncut tooth outside it, through tooth, at the finish line.",
    "clearance": "Room between the preparation and the opposing teeth with the teeth together.",
    "convergence": "The angle between two facing walls; the sum of both tapers.",
    "draft": "How far a wall leans from the path of insertion. Below nought it is an undercut.",
    "feather edge": "A finish line without a ledge: the wall runs out onto the tooth.",
    "ferrule": "The ring of sound tooth between the finish line and a core, by its height and thickness.",
    "finish line": "The border of the preparation, where the crown will end: its margin.",
    "functional cusp": "The cusps that bite into the opposing teeth: in a usual bite lingual above, facial below.",
    "laterotrusion, mediotrusion": "The lower jaw moves to the tooth's own side, or to the other.",
    "lip": "A thin rim of tooth left standing at the finish line; it breaks off.",
    "minimum": "What the material must have at that place. Short of it the crown is too thin.",
    "neighbour nick": "What was taken off the tooth beside, against its scan from before.",
    "over-cut": "More taken than the standard wants. It cannot be put back; the tool says to stop.",
    "path of insertion": "The direction in which the crown goes on: of all, the one with the most draft.",
    "pin": "A place that you mark on the tooth. It reads whatever lens is chosen; two pins measure.",
    "protrusion": "The lower jaw moves forward: what is far apart with the teeth together may meet then.",
    "reduction": "Thickness between the planned outer surface (tooth, mock-up) and the preparation: room for material.",
    "resistance": "What keeps the crown from tipping off: height and taper of the walls against its width.",
    "retention": "What keeps the crown from being pulled off along its path.",
    "shoulder, chamfer": "Forms of the ledge: square to the wall with a rounded corner, or a hollow round.",
    "standard": "The minimum, target and maximum values for a material, with their sources; yours to copy and change.",
    "too near to say": "The value lies within its uncertainty of a limit: neither met nor missed.",
    "undercut": "A place that the crown cannot pass on its way down: it lies behind the wall above it.",
    "U": "The uncertainty of a value: in 95 of 100 cases the true value lies within it on either side.",
}
