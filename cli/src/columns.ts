/** Rows under their header as text: the first column to the left, the others to the right, or all to the left. */
export function columns(header: readonly string[], rows: readonly (readonly string[])[], side: 'right' | 'left' = 'right'): string[] {
  const widths = header.map((name, c) => Math.max(name.length, ...rows.map((row) => row[c]!.length)))
  return [header, ...rows].map((row) =>
    row
      .map((cell, c) => (c === 0 || side === 'left' ? cell.padEnd(widths[c]!) : cell.padStart(widths[c]!)))
      .join('  ')
      .trimEnd(),
  )
}
