/**
 * Which records are held, in a few characters: their number, and their ids folded into one. Two
 * that hold the same records say the same, whatever the order they came in.
 */
export interface HeldMark {
  readonly count: number
  readonly digest: string
}

export const NOTHING_HELD: HeldMark = { count: 0, digest: '0'.repeat(32) }

/** With one record more. Ids are UUIDs. */
export function holding({ count, digest }: HeldMark, id: string): HeldMark {
  const hex = id.replaceAll('-', '').toLowerCase()
  let folded = ''
  for (let at = 0; at < 32; at += 8) {
    const part = (parseInt(digest.slice(at, at + 8), 16) ^ parseInt(hex.slice(at, at + 8), 16)) >>> 0
    folded += part.toString(16).padStart(8, '0')
  }
  return { count: count + 1, digest: folded }
}
