"""Which standard a tooth is judged by: its material's usual one or another, fitted to a small or a dark tooth."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from vane_line.core import kinds
from vane_line.core.judge.limits import Bounds, Limits
from vane_line.core.judge.standard_files import built_in, caps
from vane_line.core.judge.standards import Standard
from vane_line.core.tooth.notation import ToothNumber
from vane_line.errors import BadOption

# What a veneer over a dark tooth needs more: least, target, most (common practice, no source).
DARK_MM = (0.2, 0.25, 0.3)
# The material's default standard is the middle one of its rows.
DEFAULTS = {
    "full-metal": "full-metal", "metal-ceramic": "metal-ceramic-moderate",
    "lithium-disilicate": "lithium-disilicate-bonded", "zirconia": "zirconia-usual", "zirconia-thin": "zirconia-thin",
    "zirconia-translucent": "zirconia-translucent-4y", "layered-zirconia": "layered-zirconia",
    "all-ceramic": "all-ceramic-classical", "resin-ceramic": "resin-ceramic",
}  # fmt: skip
# Front teeth: every material that there is behind.
FRONT_DEFAULTS = {
    "full-metal": "front-full-metal", "metal-ceramic": "front-metal-ceramic",
    "lithium-disilicate": "front-lithium-disilicate-bonded", "zirconia": "front-zirconia-usual",
    "zirconia-thin": "front-zirconia-thin", "zirconia-translucent": "front-zirconia-translucent",
    "layered-zirconia": "front-layered-zirconia", "all-ceramic": "front-all-ceramic-textbook",
    "resin-ceramic": "front-resin-ceramic",
}  # fmt: skip
CANINE_DEFAULTS = {"all-ceramic": "canine-all-ceramic"}
# Cavities have figures of their own; a cavity is in a back tooth.
CAVITY_DEFAULTS = {
    m: f"cavity-{m}" for m in ("full-metal", "lithium-disilicate", "zirconia", "zirconia-translucent", "resin-ceramic")
}
# A veneer goes on a front tooth or a premolar.
VENEER_DEFAULTS = {
    m: f"veneer-{m}" for m in ("lithium-disilicate", "all-ceramic", "resin-ceramic", "zirconia-translucent")
}
# A prefabricated crown goes on a primary tooth: behind, then in front.
CHILD_DEFAULTS = {m: f"child-{m}" for m in ("preformed-metal", "preformed-zirconia")}
CHILD_FRONT_DEFAULTS = {m: f"child-front-{m}" for m in CHILD_DEFAULTS}
# A casting is of metal: a partial crown behind, one held by pins in front.
CAST_DEFAULTS = {"full-metal": "partial-full-metal"}
CAST_FRONT_DEFAULTS = {"full-metal": "pin-full-metal"}
LOWER_INCISORS = ("31", "32", "41", "42")
LOWER_INCISOR_DEFAULTS = {"zirconia": "front-lower-incisor-zirconia"}
UNSUITABLE = "unsuitable here"  # begins the caution of a standard that a tooth is too small for


def fitted(standard: Standard, tooth: ToothNumber) -> Standard:
    """The standard with its depths capped where the tooth is small; otherwise itself."""
    found = caps().get(tooth.fdi)
    if found is None:
        return standard
    cap, reason = found
    if not standard.finish_line_width:
        return standard
    needs = max(v.min for v in standard.finish_line_width.values())
    if needs >= cap.max:  # no cap lowers what the material needs
        caution = (
            f"{standard.title} is {UNSUITABLE}: it needs a finish line of {needs:.1f} mm at least, and {reason} at "
            f"{cap.max:.1f}. Choose a material that can be thinner."
        )
        return replace(standard, caution=" ".join(t for t in (standard.caution, caution) if t))

    def capped(own: Limits) -> Limits:
        low = max(cap.min, own.min)
        return (
            Limits(low, max(cap.target, (low + cap.max) / 2), cap.max, cap.source) if cap.target < own.target else own
        )

    width = {k: capped(v) for k, v in standard.finish_line_width.items()}
    if width == standard.finish_line_width:
        return standard
    caution = " ".join(t for t in (standard.caution, f"{reason.capitalize()} at {cap.max:.1f} mm.") if t)
    reduction = dict(standard.reduction)
    if "facial-cervical" in reduction:  # the cervical third follows from the finish line's depth
        least = capped(reduction["facial-cervical"])
        reduction["facial-cervical"] = replace(least, max=max(least.max, reduction["facial-cervical"].max))
    return replace(standard, finish_line_width=width, reduction=reduction, caution=caution)


def over_dark(standard: Standard) -> Standard:
    """The standard of a veneer over a dark tooth: deeper on the face, its line level with the gingiva or below."""

    def deeper(own: Limits) -> Limits:
        low, target, most = DARK_MM
        return Limits(own.min + low, own.target + target, own.max + most, f"{own.source}; over a dark tooth")

    face = {k: deeper(v) if k.startswith("facial") else v for k, v in standard.reduction.items()}
    height = Bounds(None, 0.0, 0.5, "common practice, no source; over a dark neck")
    return replace(standard, reduction=face, general=standard.general | {"margin-height": height})


def suitable(standard: Standard) -> bool:
    """Whether a fitted standard can be met on its tooth at all."""
    return UNSUITABLE not in standard.caution


def default_id(material: str, tooth: ToothNumber | None = None, restoration: str = "full-crown") -> str:
    """The id of a material's default standard for a kind on a tooth. Raises BadOption."""
    kind = kinds.of(restoration)
    if kind.primary and tooth is not None and not tooth.primary:
        raise BadOption(
            f"tooth {tooth.fdi} is a permanent tooth: a {kind.title} is for primary teeth, 51 to 85 (A to T)."
        )
    if kind.primary:
        table = CHILD_FRONT_DEFAULTS if tooth is not None and tooth.front else CHILD_DEFAULTS
        return _listed(table, material, f"a {kind.title}")
    if tooth is not None and tooth.primary:
        raise BadOption(f"tooth {tooth.fdi} is a primary tooth: only a child-crown is judged on it.")
    if material in CHILD_DEFAULTS:
        raise BadOption(f"material {material} is for a child-crown alone; use one of {', '.join(DEFAULTS)}.")
    if material not in DEFAULTS:
        raise BadOption(f"material {material}: use one of {', '.join(DEFAULTS)}.")
    if kind.reader.name == "cavity":
        found = _listed(CAVITY_DEFAULTS, material, f"an {restoration}")
        if tooth is not None and tooth.front:
            raise BadOption(f"tooth {tooth.fdi} is a front tooth: an {restoration} is for premolars and molars.")
        return found
    if kind.reader.name == "window":
        found = _listed(VENEER_DEFAULTS, material, f"a {restoration}")
        if tooth is not None and tooth.molar:
            raise BadOption(f"tooth {tooth.fdi} is a molar: a {restoration} is for front teeth and premolars.")
        return found
    if kind.reader.name == "cast":
        return _cast_id(material, tooth, restoration)
    if tooth is not None and tooth.front:
        if tooth.fdi[1] == "3" and material in CANINE_DEFAULTS:
            return CANINE_DEFAULTS[material]
        if tooth.fdi in LOWER_INCISORS and material in LOWER_INCISOR_DEFAULTS:
            return LOWER_INCISOR_DEFAULTS[material]
        return FRONT_DEFAULTS[material]
    return DEFAULTS[material]


def serving(every: Iterable[Standard], tooth: ToothNumber, restoration: str) -> list[Standard]:
    """Of all standards each material's usual one for a tooth and a kind, and those that no built-in one is: a surgery's
    own."""
    found = [s for s in every if restoration in s.restorations and s.may_serve(tooth)]
    usual = set()
    for material in dict.fromkeys(s.material for s in found):
        try:
            usual.add(default_id(material, tooth, restoration))
        except BadOption:
            continue  # the material is used on other teeth
    return [s for s in found if s.id in usual or s.id not in built_in()]


def _cast_id(material: str, tooth: ToothNumber | None, restoration: str) -> str:
    table, front = (CAST_FRONT_DEFAULTS, True) if restoration == "pin-casting" else (CAST_DEFAULTS, False)
    found = _listed(table, material, f"a {restoration}")
    if tooth is not None and tooth.front != front:
        for_teeth = "front teeth" if front else "premolars and molars"
        raise BadOption(f"tooth {tooth.fdi}: a {restoration} is for {for_teeth}.")
    return found


def _listed(table: dict[str, str], material: str, thing: str) -> str:
    """The standard of a material that is used for a kind. Raises BadOption."""
    if material not in table:
        are = "are" if len(table) > 1 else "is"
        raise BadOption(f"material {material} is not used for {thing}: {', '.join(table)} {are}.")
    return table[material]


def choose(
    material: str, restoration: str, standard_id: str | None = None, tooth: ToothNumber | None = None
) -> Standard:
    """The standard asked for, or the material's default for the tooth. Raises BadOption."""
    default = default_id(material, tooth, restoration)
    chosen = built_in().get(standard_id or default)
    if chosen is None:
        raise BadOption(f"standard {standard_id}: use one of {', '.join(built_in())}.")
    check_fit(chosen, material, tooth, restoration)
    return chosen


def choose_each(
    material: str, abutments: Sequence[tuple[ToothNumber, str]], standard_id: str | None, restoration: str
) -> dict[str, Standard]:
    """By FDI number what each abutment is judged by: a canine's figures are not a premolar's. Raises BadOption.

    abutments: tooth and kind. standard_id: asked for where they carry `restoration`; those of them that it does not
    serve are held to the material's default, if it serves any.
    """
    asked = built_in().get(standard_id) if standard_id is not None else None
    mine = [tooth for tooth, kind in abutments if kind == restoration]
    served = [t for t in mine if asked is None or asked.may_serve(t)] or mine
    return {t.fdi: choose(material, kind, standard_id if t in served else None, t) for t, kind in abutments}


def check_fit(standard: Standard, material: str, tooth: ToothNumber | None, restoration: str = "full-crown") -> None:
    """Raises BadOption where a standard is for another material, for another kind, or for other teeth."""
    own, asked = (kinds.of(k).reader.name for k in (standard.restoration, restoration))
    if restoration not in standard.restorations and own != asked:
        raise BadOption(f"standard {standard.id} is for {' and '.join(standard.restorations)}, not for {restoration}.")
    if material not in (standard.material, *standard.also_for):
        raise BadOption(f"standard {standard.id} is for {standard.material}, not for {material}.")
    if tooth is not None and not standard.serves(tooth) and not (standard.teeth == "back" and tooth.front):
        raise BadOption(f"standard {standard.id} is for {standard.teeth} teeth, not for tooth {tooth.fdi}.")
