"""A plan on one page for the chair: depths, burs and order of work in large letters."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

DECIDES = "The dentist decides. Local regulations and the manufacturer's instructions come first."
STYLE = """
@page { size: A4; margin: 9mm }
* { box-sizing: border-box }
body { font: 13pt/1.18 "Noto Sans", "DejaVu Sans", Arial, sans-serif; color: #111; background: #fff; margin: 0 auto;
  max-width: 192mm; padding: 5mm 0 }
h1 { font-size: 22pt; margin: 0 } h2 { font-size: 13.5pt; margin: 1.5mm 0 0.5mm; border-bottom: 1.5pt solid #111 }
p { margin: 1mm 0 } table { border-collapse: collapse; width: 100% }
td { text-align: left; padding: 0.4mm 2mm 0.4mm 0; vertical-align: top; font-size: 12pt }
td.n { font-size: 19pt; font-weight: 700; white-space: nowrap; text-align: right; padding-right: 4mm; width: 16mm }
small { font-size: 9.5pt; color: #333 } ol, ul { margin: 0; padding-left: 7mm } li { font-size: 9.5pt }
ol.steps { columns: 2; column-gap: 7mm }
ol.steps li { font-size: 9pt; line-height: 1.1; break-inside: avoid } ol.steps small { font-size: 8pt }
.warn { border: 1.5pt solid #111; padding: 1mm 2.5mm; font-weight: 700; font-size: 10pt; margin: 1mm 0 }
footer { font-size: 10pt; border-top: 1pt solid #111; margin-top: 2mm; padding-top: 1mm }
.print { float: right; font-size: 13pt; padding: 2mm 5mm } @media print { .print { display: none } body { padding: 0 } }
"""


def plan_page(plan: dict[str, Any], code: str, made_at: str) -> str:
    """HTML of a plan document, nothing fetched from anywhere."""
    above = plan["finish_line"]["above_gingiva_mm"]
    level = (
        "level with the gingiva"
        if above == 0
        else f"{abs(above):.1f} mm {'above' if above > 0 else 'below'} the gingiva"
    )
    standard = f"{plan['standard']['title']}, version {plan['standard']['version']}"
    title = f"{code} · tooth {plan['tooth']}"
    parts = [
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Plan {escape(title)}</title>',
        f'<style>{STYLE}</style></head><body><button class="print">Print</button><script src="/print.js"></script>',
        f"<h1>{escape(title)}</h1><p>{escape(standard)}. Earlier surface: {escape(plan['earlier']['title'])}. ",
        f"<small>made {escape(made_at[:16].replace('T', ' '))}</small></p>",
        _warnings([*plan["warnings"], *(_way_out(w) for w in plan["ways_out"])]),
        _raise(plan["raise"]),
        f"<h2>Depths, mm{_shared(plan['sites'])}</h2>",
        f"<table>{''.join(_site(s) for s in _grouped(plan['sites']))}</table>",
        f"<h2>Finish line, {level}; {_ends(plan)}</h2>" if plan["finish_line"]["sides"] else "",
        f"<table>{''.join(_ledge(s) for s in _same(plan['finish_line']['sides']))}</table>",
        _cavity(plan["cavity"], level),
        _child(plan["child"]),
        _channels(plan.get("channels") or [], plan.get("budget")),
        f"<h2>{escape(plan['sequence']['title'])}</h2>",
        f'<ol class="steps">{"".join(_step(s) for s in plan["sequence"]["steps"])}</ol>',
        _capture(plan["capture"]),
        _warnings([plan["reminder"]]),
        f"<footer>{DECIDES} Surfaces only: pulp, decay, cracks and the patient are not seen.</footer></body></html>",
    ]
    return "\n".join(p for p in parts if p)


def _ends(plan: dict[str, Any]) -> str:
    """How the target ends above: the walls' taper, or a veneer's incisal end."""
    if plan["incisal"] is None:  # what is no veneer
        return f"walls {plan['taper_deg']:.0f} degrees each"
    return "over the edge as a butt" if plan["incisal"] == "butt" else "the edge stays, the line runs under it"


def _cavity(row: dict[str, Any] | None, level: str) -> str:
    """What a planned cavity would be: walls, isthmus, boxes, and each cusp beside it."""
    if row is None:
        return ""
    boxes = [
        f"<li><b>{escape(b['side'])} box</b>, its floor {level}: {_number(b['depth_mm'])} deep, "
        f"{_number(b['contact_clearance_mm'])} to the next tooth</li>"
        for b in row["boxes"]
    ]
    cusps = [
        f"<li><b>{escape(c['cusp'])}</b>: "
        + ("covered" if c["covered"] else f"{_number(c['base_mm'])} at its base, {_number(c['needed_mm'])} needed")
        + f"; covering takes {c['cover_mm3']:.0f} mm³</li>"
        for c in row["cusps"]
    ]
    wide = "" if row["isthmus_mm"] is None else f", isthmus {_number(row['isthmus_mm'])} mm"
    head = f"<h2>Cavity: walls lean {row['divergence_deg']:.0f} degrees each{wide}</h2>"
    return f"{head}<ul>{''.join(boxes + cusps)}</ul>"


def _child(row: dict[str, Any] | None) -> str:
    """What goes off a child's tooth beside its top, and which crown of the set would go on."""
    if row is None:
        return ""
    off = [
        f"<li><b>{words}</b>: {_number(row[key])} mm</li>"
        for key, words in (
            ("slice_mm", "each side between the teeth"), ("around_mm", "all round, at the contour"),
            ("face_mm", "face and back, only rounded"), ("edge_lowered_mm", "edge taken down"),
            ("below_gingiva_mm", "walls go on below the gingiva, unseen, without a ledge"),
        )
        if row[key] is not None
    ]  # fmt: skip
    return f"<h2>Sides</h2><ul>{''.join(off)}</ul>{_first_try(row)}"


CHANNELS = {"groove": "groove", "pin-hole": "pin hole"}


def _channels(rows: list[dict[str, Any]], budget: dict[str, Any] | None) -> str:
    """What would hold a casting, as it is read on the target, and the tooth left in front of its ledge."""
    if not rows:
        return ""
    told = []
    for row in rows:
        figures = [("deep", row["depth_mm"]), ("long", row["length_mm"] if row["kind"] == "groove" else None),
                   ("of tooth round it", row["cover_mm"]), ("of ledge", row["ledge_mm"])]  # fmt: skip
        said = ", ".join(f"{_number(mm)} {words}" for words, mm in figures if mm is not None)
        told.append(f"<li><b>{CHANNELS.get(row['kind'], row['kind'])}, {escape(row['side'])}</b>: {said}</li>")
    thick = ""
    if budget is not None:
        thick = (f"<p>At the ledge the tooth is {_number(budget['thickness_mm'])} thick; "
                 f"{_number(budget['left_mm'])} would stay in front of it.</p>")  # fmt: skip
    return f"<h2>What would hold it, mm</h2><ul>{''.join(told)}</ul>{thick}"


def _first_try(row: dict[str, Any]) -> str:
    """Whether the crown as wide as the tooth would go on, else which would."""
    if row["first_try"] is None:
        return ""
    size = row["size"]
    other = "no size of the set does" if size is None else f"the smallest that does is size {escape(size)}"
    told = "goes on" if row["goes_on"] else f"does not go on; {other}"
    wide = f"size {escape(row['first_try'])}, {_number(row['mesiodistal_mm'])} mm wide as the tooth is"
    return f"<p><b>Crown</b>: {wide}, {told}.</p>"


def _warnings(texts: list[str]) -> str:
    return f'<p class="warn">{"<br>".join(escape(t) for t in texts)}</p>' if texts else ""


def _shared(sites: list[dict[str, Any]]) -> str:
    """What is said of every site, once."""
    said = {s["why"] for s in sites}
    return f": <small>{escape(said.pop())}</small>" if len(said) == 1 and "" not in said else ""


def _way_out(row: dict[str, Any]) -> str:
    said = row["criterion"].replace("-", " ")
    place = "" if row["where"] == "overall" else f"{row['where']}, "
    return (
        f"The plan itself falls short: {place}{said} {_number(row['value'])} {row['unit']} "
        f"(limit {_number(row['limit'])}). {row['do'][:1].upper()}{row['do'][1:]}."
    )


def _raise(row: dict[str, Any] | None) -> str:
    if row is None:
        return ""
    return (
        f"<p><b>Bite raised</b>: {row['tooth_mm']:.1f} mm at this tooth (± {2 * row['u_mm']:.1f}), "
        f"{row['first_molar_mm']:.1f} at the first molars, {row['incisor_mm']:.1f} at the incisors.</p>"
    )


def _capture(rows: list[dict[str, Any]]) -> str:
    if not rows:
        return ""
    rows = _merged(rows, "where", lambda c: (c["why"], c["do"]))
    said = "".join(f"<li><b>{escape(c['where'])}</b>: {escape(c['why'])}; {escape(c['do'])}.</li>" for c in rows)
    return f"<h2>Seeing the finish line</h2><ul>{said}</ul>"


def _merged(
    rows: list[dict[str, Any]], name: str, key: Callable[[dict[str, Any]], tuple[Any, ...]]
) -> list[dict[str, Any]]:
    """Rows with the same key on one line, their names beside each other."""
    out: dict[tuple[Any, ...], dict[str, Any]] = {}
    for row in rows:
        same = out.get(key(row))
        out[key(row)] = row if same is None else same | {name: f"{same[name]}, {row[name]}"}
    return list(out.values())


def _grouped(sites: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Sites with the same depth, bur and gap on one line."""
    if _shared(sites):
        sites = [s | {"why": ""} for s in sites]
    return _merged(
        sites, "where", lambda s: (s["depth_mm"], s["most_mm"], s["gap_mm"], (s["bur"] or {}).get("id"), s["why"])
    )


def _site(s: dict[str, Any]) -> str:
    bur = s["bur"]
    said = f"{escape(bur['title'])} <small>({escape(bur['size'])})</small>: {escape(bur['words'])}" if bur else ""
    notes = []
    if s["gap_mm"] > 0:
        notes.append(f"{s['gap_mm']:.1f} of {s['target_mm']:.1f} is there already")
    if s["depth_mm"] is None:
        amount, said = "–", escape(s["why"] or "by the space to the opposing teeth")
    else:
        amount = "0" if s["nothing_to_cut"] else f"{s['depth_mm']:.1f}"
        notes += [s["why"]] if s["why"] else []
        said += "" if s["most_mm"] is None else f" <small>Not beyond {s['most_mm']:.1f}.</small>"
    more = "".join(f"<br><small>{escape(n)}</small>" for n in notes)
    return f'<tr><td class="n">{amount}</td><td>{escape(s["where"])}{more}</td><td>{said}</td></tr>'


def _same(sides: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Sides with the same ledge on one line."""
    rows = _merged(sides, "side", lambda s: (s["width_mm"], tuple(s["forms"]), (s["bur"] or {}).get("id")))
    return [rows[0] | {"side": "all round"}] if len(rows) == 1 else rows


def _ledge(s: dict[str, Any]) -> str:
    forms = " or ".join(f.replace("-", " ") for f in s["forms"]) or "as the standard leaves open"
    bur = s["bur"]
    said = "no bur of the tray is wide enough"
    if bur is not None:
        size = f"{escape(bur['title'])} <small>({escape(bur['size'])})</small>"
        said = f"{size}: {escape(bur['words'])}, <small>{escape(bur['beyond'])}</small>"
    place = f"<td>{escape(s['side'])}<br><small>{forms}</small></td>"
    return f'<tr><td class="n">{s["width_mm"]:.1f}</td>{place}<td>{said}</td></tr>'


def _step(s: dict[str, Any]) -> str:
    parts = [escape(s[k]) for k in ("depth", "bur") if s[k]]
    check = f" <small>Check: {escape(s['check'])}.</small>" if s["check"] else ""
    view = f" <small>View: {escape(s['view'])}.</small>" if s["view"] and s["view"] != "all" else ""
    beware = f" <small><b>Beware:</b> {escape(s['caution'])}.</small>" if s["caution"] else ""
    return f"<li><b>{escape(s['title'])}</b>{': ' if parts else ''}{'; '.join(parts)}.{view}{check}{beware}</li>"


def _number(value: float | None) -> str:
    return "–" if value is None else f"{value:.1f}"
