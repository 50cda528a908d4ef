/**
 * Tints of segments, in their order; with a pattern of their own each, since colour
 * alone says nothing to who cannot tell them apart. More segments than tints begin again.
 */
export const tints = ['#24566B', '#7A5C99', '#3F6B2A', '#865A06', '#A02540', '#56626D'] as const
export const strokes = ['', '6 3', '2 3', '10 3 2 3', '4 4', '1 2'] as const

export function tintOf(segments: { id: string }[], id: string): { colour: string; dash: string } {
  const n = Math.max(0, segments.findIndex((s) => s.id === id))
  return { colour: tints[n % tints.length]!, dash: strokes[n % strokes.length]! }
}
