// The data of the statistics bench, made from a fixed seed: columns by name, so that both sides read the same table.

/** Even numbers from 0 to 1 (Park & Miller), and normal ones from twelve of them. */
function chance(seed) {
  let state = seed
  const even = () => (state = (state * 16807) % 2147483647) / 2147483647
  const normal = () => Array.from({ length: 12 }, even).reduce((a, b) => a + b, -6)
  return { even, normal }
}

const table = (rows) => Object.fromEntries(Object.keys(rows[0]).map((name) => [name, rows.map((row) => row[name])]))
const draws = (n, normal) => Array.from({ length: n }, normal)

/** Four blocks, three main plots in each, four subplots in each of those. */
export function splitPlot() {
  const { normal } = chance(11)
  const [blocks, mains] = [draws(4, normal), draws(12, normal)]
  const rows = []
  for (let block = 0; block < 4; block++)
    for (let a = 0; a < 3; a++)
      for (let b = 0; b < 4; b++)
        rows.push({
          block,
          a,
          b,
          main: block * 3 + a,
          y: 5 + 0.4 * a + 0.3 * b + 0.5 * blocks[block] + 0.4 * mains[block * 3 + a] + 0.3 * normal(),
        })
  return table(rows)
}

/** Eight sites, eight treatments in four blocks at each. */
export function manySites() {
  const { normal } = chance(12)
  const [sites, blocks, cells] = [draws(8, normal), draws(32, normal), draws(64, normal)]
  const rows = []
  for (let site = 0; site < 8; site++)
    for (let rep = 0; rep < 4; rep++)
      for (let treatment = 0; treatment < 8; treatment++)
        rows.push({
          site,
          block: site * 4 + rep,
          treatment,
          cell: site * 8 + treatment,
          y: 6 + 0.2 * treatment + sites[site] + 0.3 * blocks[site * 4 + rep] + 0.4 * cells[site * 8 + treatment] + 0.5 * normal(),
        })
  return table(rows)
}

/** 200 entries in ten replicates, each in twenty blocks of ten. */
export function manyEntries() {
  const { even, normal } = chance(13)
  const [entries, blocks] = [draws(200, normal), draws(200, normal)]
  const rows = []
  for (let rep = 0; rep < 10; rep++) {
    const order = Array.from({ length: 200 }, (_, i) => i)
    for (let i = 199; i > 0; i--) {
      const j = Math.floor(even() * (i + 1))
      ;[order[i], order[j]] = [order[j], order[i]]
    }
    order.forEach((entry, i) => {
      const block = rep * 20 + Math.floor(i / 10)
      rows.push({ rep, block, entry, y: 7 + 0.5 * entries[entry] + 0.6 * blocks[block] + normal() })
    })
  }
  return table(rows)
}

/** A field of 25 rows and 40 columns, 20 places empty, 40 entries. */
export function field() {
  const { even, normal } = chance(14)
  const [height, width, ground] = [25, 40, []]
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const [up, left, both] = [
        r ? ground[(r - 1) * width + c] : 0,
        c ? ground[r * width + c - 1] : 0,
        r && c ? ground[(r - 1) * width + c - 1] : 0,
      ]
      ground.push(0.5 * up + 0.8 * left - 0.4 * both + Math.sqrt(0.75 * 0.36) * normal())
    }
  const rows = ground.flatMap((own, i) => {
    const entry = Math.floor(even() * 40)
    const y = 5 + 0.02 * entry + 0.6 * own + 0.4 * normal()
    return i % 50 === 7 ? [] : [{ row: Math.floor(i / width), column: i % width, entry, y }]
  })
  return table(rows)
}

/** Ten sites, 400 entries twice at each: 8,000 plots. */
export function manyEnvironments() {
  const { normal } = chance(15)
  const [entries, cells] = [draws(400, normal), draws(4000, normal)]
  const rows = []
  for (let site = 0; site < 10; site++)
    for (let rep = 0; rep < 2; rep++)
      for (let entry = 0; entry < 400; entry++)
        rows.push({
          site,
          entry,
          cell: site * 400 + entry,
          y: 6 + site * 0.3 + 0.8 * entries[entry] + 0.5 * cells[site * 400 + entry] + normal(),
        })
  return table(rows)
}
