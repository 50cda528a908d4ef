/** Where a box of the drawing lies, within the drawing. */
export interface Box { id: string; left: number; top: number; right: number; bottom: number; column: number; rowTop: number }
export interface Way { id: string; from: string; to: string }

/** The free lane left of a column, in pixels: as wide as the gutter between columns. */
export const gutter = 56
const step = 6

/**
 * The lines of the drawing: each leaves its parent to the right, runs up or down in the gutter
 * there, crosses in the corridor above the row of its child, and comes down the gutter left of the
 * child. No line crosses a box; lines of one lane lie beside each other.
 */
export function linesOf(boxes: Box[], ways: Way[]): { id: string; path: string }[] {
  const at = new Map(boxes.map((b) => [b.id, b]))
  const lanes = new Map<string, number>()
  const lane = (key: string) => {
    const n = lanes.get(key) ?? 0
    lanes.set(key, n + 1)
    return (n % 7) * step
  }
  const leaving = new Map<string, number>()
  return ways.flatMap((w) => {
    const child = at.get(w.from)
    const parent = at.get(w.to)
    if (!child || !parent) return []
    const y = (child.top + child.bottom) / 2
    const entry = child.left - 10 - lane(`left ${child.column}`)
    const n = leaving.get(w.to) ?? 0
    leaving.set(w.to, n + 1)
    const from = Math.min(parent.top + 14 + n * step, parent.bottom - 6)
    if (child.column === parent.column && child.rowTop === parent.rowTop) { // in one room: a bracket at its left
      return [{ id: w.id, path: `M${parent.left} ${from}H${entry}V${y}H${child.left}` }]
    }
    const exit = parent.right + 10 + lane(`right ${parent.column}`)
    const corridor = child.rowTop - 10 - lane(`above ${child.rowTop}`)
    return [{ id: w.id, path: `M${parent.right} ${from}H${exit}V${corridor}H${entry}V${y}H${child.left}` }]
  })
}
