// A report on paper: blocks come as data, so that no text of theirs is read as commands.
#let r = json("report.json")
#let soft = rgb("#66707d")
#let bad = rgb("#a33a0c")
#let good = rgb("#1d6a43")
#set document(title: r.title, author: if r.author == "" { () } else { (r.author,) }, date: none)
#set text(font: "DejaVu Sans", size: 8.5pt, fill: rgb("#2f3640"), lang: "en")
#set par(leading: 0.55em, justify: false)
#set page(
  paper: r.paper, margin: (x: 17mm, top: 25mm, bottom: 19mm),
  header: context {
    let here = here().page()
    let before = query(heading.where(level: 1)).filter(h => h.location().page() <= here)
    set text(7.5pt, fill: soft)
    grid(columns: (1fr, auto), r.head, if here > 1 and before.len() > 0 { before.last().body })
    v(-6pt)
    line(length: 100%, stroke: 0.4pt + soft)
  },
  footer: context {
    set text(7.5pt, fill: soft)
    grid(columns: (1fr, auto), r.foot, [page #counter(page).display() of #counter(page).final().first()])
  },
)
#set heading(numbering: "1.")
#show heading.where(level: 1): it => block(above: 2em, below: 0.9em, sticky: true, text(13pt, weight: "bold", it))
#set table(stroke: none, inset: (x: 3pt, y: 2.2pt))
#set table.cell(breakable: false)
#show link: it => text(fill: rgb("#0b4a7a"), it)
#show figure.where(kind: table): set block(breakable: true)

#let grid-of(g) = {
  let size = if g.heads.len() > 11 { 5.6pt } else if g.heads.len() > 8 { 6.4pt } else { 7.4pt }
  set text(size)
  if g.caption != "" { block(above: 1.1em, below: 0.5em, sticky: true, text(8pt, weight: "bold", g.caption)) }
  if g.heads.len() > 0 { table(
    columns: g.heads.len(),
    table.header(..g.heads.enumerate().map(((i, h)) => table.cell(align: if g.numeric.at(i) { right } else { left }, text(fill: soft, weight: "bold", h))), table.hline(stroke: 0.6pt + soft)),
    ..g.rows.enumerate().map(((k, row)) => {
      let tone = if g.tones.len() > 0 { g.tones.at(k) } else { "" }
      row.enumerate().map(((i, c)) => {
        let words = if c.link == "" { [#c.text] } else { link(label(c.link), c.text) }
        table.cell(align: if g.numeric.at(i) { right } else { left }, if tone == "bad" { text(fill: bad, weight: "bold", words) } else { words })
      })
    }).flatten(),
    table.hline(stroke: 0.3pt + rgb("#d5dae0")),
  ) }
  if g.note != "" { block(above: 0.4em, text(7pt, fill: soft, g.note)) }
}
#let paragraph(p) = {
  let fill = if p.tone == "bad" { bad } else if p.tone == "good" { good } else { rgb("#2f3640") }
  let body = {
    if p.head != "" { block(below: 0.6em, text(9.5pt, weight: "bold", p.head)) }
    for words in p.paragraphs { par(text(fill: fill, weight: if p.tone in ("bad", "good") { "bold" } else { "regular" }, words)) }
  }
  if p.tone == "own" { block(inset: (left: 8pt), stroke: (left: 2pt + rgb("#d5dae0")), body) } else { body }
}

#text(20pt, weight: "bold", r.title)
#v(2pt)
#block(stroke: 0.5pt + rgb("#d5dae0"), inset: 8pt, width: 100%, grid(
  columns: (auto, 1fr, auto, 1fr), column-gutter: 8pt, row-gutter: 6pt,
  ..r.facts.map(f => (text(fill: soft, f.at(0)), text(weight: "bold", f.at(1)))).flatten(),
))
#for p in r.verdict { paragraph(p) }
#v(4pt)
#outline(title: [Contents], depth: 1)

#for part in r.parts {
  [#heading(level: 1, part.title) #label(part.anchor)]
  for b in part.blocks {
    if b.kind == "grid" { grid-of(b) } else if b.kind == "paragraph" { paragraph(b) } else if b.kind == "picture" {
      block(breakable: false, above: 1em, below: 1em, { image(b.file, width: 100%, alt: b.words); text(7.5pt, fill: soft, b.caption) })
    } else if b.kind == "derivation" {
      [#block(above: 1.3em, below: 0.5em, sticky: true, text(8pt, weight: "bold", b.title)) #label(b.anchor)]
      for words in b.lines { par(text(7.4pt, words)) }
      grid-of(b.shares)
    }
  }
}
