#let data = json("data.json")
#let ink = rgb(data.look.ink)
#let quiet = rgb(data.look.quiet)
#let rule = rgb(data.look.rule)
#let gold = rgb(data.look.accent)
#set document(title: data.title, date: none, author: data.owner, keywords: ("Golden Almanac",))
#set page(
  ..(if data.long { (width: 210mm, height: auto) } else { (paper: "a4") }),
  fill: rgb(data.look.paper),
  margin: (x: 20mm, top: 18mm, bottom: 18mm),
  footer: if data.long { none } else { context [#set text(8.5pt, fill: quiet); #data.title #h(1fr) #counter(page).display("1 / 1", both: true)] },
)
#set text(font: data.look.sans, size: 10.5pt, fill: ink, lang: data.lang, number-width: "tabular")
#set par(leading: 0.62em)
#show heading: it => block(above: 1.5em, below: 0.85em, text(font: data.look.serif, weight: 600, size: if it.level == 1 { 19pt } else { 13pt }, it.body))
#set heading(numbering: none)
#if data.look.logo != none { block(below: 10pt, image(data.look.logo, height: 11mm, alt: data.title)) }
#block(below: 10pt, text(9pt, fill: quiet)[#data.edition])
#line(length: 100%, stroke: 0.5pt + rule)
= #data.headline
#set list(spacing: 0.75em, marker: text(fill: gold)[—], indent: 0pt, body-indent: 8pt)
#text(font: data.look.serif, size: 11.5pt, list(..data.bullets.map(one => [#one])))
#if data.keys.len() > 0 {
  v(4pt)
  line(length: 100%, stroke: 0.7pt + ink)
  grid(columns: data.keys.map(_ => 1fr), gutter: 10pt,
    ..data.keys.map(key => block[#text(8.5pt, fill: quiet)[#key.name] \ #text(17pt, weight: 600)[#key.value] \ #text(8.5pt)[#key.change]]))
  line(length: 100%, stroke: 0.7pt + ink)
}
#for section in data.sections [
  #if section.new_page and not data.long { pagebreak(weak: true) }
  #if section.part != "" { block(above: 6pt, below: 9pt, text(weight: 600, fill: gold)[#section.part]) }
  #block(breakable: section.table.len() > 12, width: 100%)[
    #heading(level: section.level, section.claim)
    #if section.detail != "" [#section.detail]
    #if section.chart != none { image(section.chart, width: eval(section.width), alt: section.alternative) }
    #if section.table.len() > 0 {
      let columns = section.table.at(0).len()
      table(columns: columns, stroke: none, inset: (x: 6pt, y: 3pt), align: (x, _) => if section.words.at(x) { left } else { right },
        table.hline(stroke: 0.7pt + ink),
        table.header(..section.table.at(0).map(cell => text(weight: 600)[#cell])),
        table.hline(stroke: 0.5pt + rule),
        ..section.table.slice(1).flatten().map(cell => [#cell]),
        table.hline(stroke: 0.7pt + ink))
    }
    #set text(8.5pt, fill: quiet)
    #grid(columns: (auto, 1fr), column-gutter: 8pt, row-gutter: 4pt,
      ..section.evidence.map(pair => (text(weight: 600, fill: ink)[#pair.at(0)], [#pair.at(1)])).flatten())
  ]
  #line(length: 100%, stroke: 0.5pt + rule)
]
#let listed(title, texts) = if texts.len() > 0 [
  == #title
  #list(..texts.map(one => [#one]))
]
#listed(data.words.steps, data.steps)
#listed(data.words.further, data.further)
#listed(data.words.caveats, data.caveats)
#listed(data.words.made, data.made)
#if data.sections.any(one => one.sql != "") [
  == #data.words.check
  #set text(8.5pt)
  #for section in data.sections.filter(one => one.sql != "") [
    #block(above: 9pt, below: 3pt, text(weight: 600)[#section.claim])
    #section.expect
    #block(above: 4pt, raw(section.sql, block: true, lang: none))
  ]
]
#show raw: set text(font: data.look.sans, size: 8pt)
