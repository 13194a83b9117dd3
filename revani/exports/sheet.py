"""The field sheet as PDF (set by typst), as one HTML page that a phone keeps, and as plain text."""

import json
from collections.abc import Iterator
from functools import lru_cache
from html import escape
from importlib.resources import files
from typing import Literal

import typst

from revani.core.quantities.refusal import Refusal
from revani.core.rigup.field_sheet import CARD_MM, FieldSheet, Part
from revani.exports.code_picture import code_svg

Paper = Literal["a5", "a4"]

# Black on white and nothing else: under a red lamp red ink is gone.
_TEMPLATE = r"""
#let sheet = json(bytes(sys.inputs.sheet))
#let small = sys.inputs.paper == "a5"
#set page(
  paper: sys.inputs.paper,
  margin: if small { (x: 10mm, y: 11mm) } else { (x: 17mm, y: 16mm) },
  footer: context [
    #set text(size: 8pt)
    #sheet.name #h(1fr) #counter(page).display("1 / 1", both: true)
  ],
)
#set document(title: sheet.name)
#set text(font: "Atkinson Hyperlegible Next", size: if small { 9.5pt } else { 11pt }, lang: "en", region: "gb")
#set par(leading: 0.55em, spacing: 0.7em)
#show heading: it => block(
  above: 1.1em, below: 0.5em, sticky: true, stroke: (bottom: 0.8pt), width: 100%, inset: (bottom: 2pt), it.body,
)
#set heading(numbering: none)

#text(size: 1.7em, weight: "bold")[#sheet.name] \
#sheet.under

#for part in sheet.parts {
  heading(level: 2, part.title)
  if part.rows.len() > 0 {
    let wide = part.rows.at(0).len()
    block(breakable: part.rows.len() > 12, table(
      columns: (auto,) * (wide - 1) + (1fr,),
      stroke: (x: none, y: 0.4pt),
      inset: (x: 3pt, y: 3pt),
      align: left,
      table.header(..part.heads.map(head => text(size: 0.85em, weight: "bold")[#head])),
      ..part.rows.flatten().map(cell => text(font: "Atkinson Hyperlegible Mono", size: 0.92em)[#cell]),
    ))
  }
  for line in part.lines {
    if part.ticked {
      grid(columns: (1.6em, 1fr), row-gutter: 0.5em, box(width: 0.8em, height: 0.8em, stroke: 0.8pt), [#line])
      v(-0.25em)
    } else { par[#line] }
  }
  if part.title == "Framed wider" and sheet.wider != none {
    let width = if small { 60mm } else { 80mm }
    let part = sheet.wider
    box(width: width, height: width * 2 / 3, stroke: 1pt, align(center + horizon, box(
      width: width * part, height: width * 2 / 3 * part, stroke: (dash: "dashed"),
      align(center + horizon, text(size: 0.85em)[what it ends with]),
    )))
  }
}

#if sheet.cards.len() > 0 {
  heading(level: 2, "Code cards")
  par(sheet.cards_told)
  grid(
    columns: if small { (1fr,) * 3 } else { (1fr,) * 4 },
    gutter: 4mm,
    ..sheet.cards.enumerate().map(((i, card)) => block(breakable: false)[
      #image(bytes(sheet.pictures.at(i)), format: "svg", width: CARDMMmm) \
      *#card.title* \
      #text(size: 0.85em)[#(card.does + "; " + card.reads)]
    ]),
  )
}
"""


@lru_cache(maxsize=1)
def _fonts() -> typst.Fonts:
    return typst.Fonts(include_system_fonts=False, font_paths=[str(files("revani.exports") / "fonts")])


def sheet_pdf(sheet: FieldSheet, paper: Paper = "a5") -> bytes:
    """The sheet as PDF. Raises Refusal("sheet") where it cannot be set, with what typst says."""
    told = sheet.model_dump() | {"pictures": [code_svg(card.text) for card in sheet.cards]}
    inputs = {"sheet": json.dumps(told), "paper": paper}
    try:
        found = typst.compile(
            _TEMPLATE.replace("CARDMM", f"{CARD_MM:g}").encode(), font_paths=_fonts(), sys_inputs=inputs
        )
    except typst.TypstError as error:
        raise Refusal("sheet", f"The PDF could not be set: {error.message}. The text and the page are there.") from None
    assert isinstance(found, bytes)
    return found


def sheet_text(sheet: FieldSheet) -> str:
    """The sheet as plain text, 78 wide where nothing is longer."""
    lines = [sheet.name, sheet.under, ""]
    for part in sheet.parts:
        lines += [part.title.upper(), *_plain(part), ""]
    if sheet.cards:
        lines += ["CODE CARDS", sheet.cards_told, *(f"{card.title}: {card.does}" for card in sheet.cards), ""]
    return "\n".join(lines)


def _plain(part: Part) -> Iterator[str]:
    if part.rows:
        table = [part.heads, *part.rows]
        wide = [max(len(row[i]) for row in table) for i in range(len(part.heads))]
        for row in table:
            yield "  ".join(f"{cell:<{size}}" for cell, size in zip(row, wide, strict=True)).rstrip()
    for line in part.lines:
        yield f"[ ] {line}" if part.ticked else line


_STYLE = """
:root { color-scheme: light dark } body { font: 17px/1.4 system-ui, sans-serif; margin: 0 auto; max-width: 46rem;
padding: 1rem } h1 { font-size: 1.5rem; margin: 0 } h2 { font-size: 1.05rem; border-bottom: 2px solid; margin: 1.4rem 0
.4rem } table { border-collapse: collapse; width: 100% } td, th { text-align: left; padding: .25rem .5rem .25rem 0;
border-bottom: 1px solid; vertical-align: top; font-variant-numeric: tabular-nums } label { display: flex; gap: .7rem;
min-height: 44px; padding: .3rem 0 } input { width: 22px; height: 22px; flex: none } .cards { display: flex; flex-wrap:
wrap; gap: 1rem } .cards svg { width: 150px; background: #fff } body:has(#red:checked) { background: #000; color: #f33 }
body:has(#red:checked) .cards svg { filter: none }
"""


def sheet_html(sheet: FieldSheet) -> str:
    """The sheet as one page that needs nothing else: kept by a phone, read without a network, red on request."""
    body = [f"<h1>{escape(sheet.name)}</h1><p>{escape(sheet.under)}</p>",
            '<label><input type="checkbox" id="red"> Red, for the dark</label>']  # fmt: skip
    for part in sheet.parts:
        body.append(f"<h2>{escape(part.title)}</h2>")
        if part.rows:
            heads = "".join(f"<th>{escape(head)}</th>" for head in part.heads)
            rows = "".join("<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in row) + "</tr>" for row in part.rows)
            body.append(f"<table><tr>{heads}</tr>{rows}</table>")
        for line in part.lines:
            text = escape(line)
            body.append(f'<label><input type="checkbox"> {text}</label>' if part.ticked else f"<p>{text}</p>")
    if sheet.cards:
        cards = "".join(
            f'<div>{code_svg(card.text)}<br><a href="{escape(card.text, quote=True)}">{escape(card.title)}</a><br>'
            f"{escape(card.does)}</div>"
            for card in sheet.cards
        )
        body.append(f'<h2>Code cards</h2><p>{escape(sheet.cards_told)}</p><div class="cards">{cards}</div>')
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8">'
        '<meta name="viewport" content="width=device-width, initial-scale=1">'
        f"<title>{escape(sheet.name)}</title><style>{_STYLE}</style></head><body>{''.join(body)}</body></html>"
    )
