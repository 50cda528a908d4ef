const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
const dayTime = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

/** An instant as people here say it; nothing for the zero time. */
export function when(iso: string | undefined, withTime = true): string {
  if (!iso || iso.startsWith('0001')) return ''
  return (withTime ? dayTime : day).format(new Date(iso))
}

/** The middle of a day here, as an instant. */
export function noon(day: string): string {
  return new Date(day + 'T12:00').toISOString()
}

/** A code as words: in-hand is "in hand". */
export function plain(code: string): string {
  return code.replaceAll('-', ' ')
}

/** With the article: a room, an interface. */
export function article(noun: string): string {
  return (/^[aeiou]/.test(noun) ? 'an ' : 'a ') + noun
}

export function counted(n: number, one: string, many = one + 's'): string {
  return n === 1 ? `1 ${one}` : `${n} ${many}`
}

export function floorName(floor: number): string {
  if (floor === 0) return 'Ground floor'
  return floor < 0 ? (floor === -1 ? 'Cellar' : `Cellar ${-floor}`) : `Floor ${floor}`
}

export function capital(s: string): string {
  return s.charAt(0).toUpperCase() + s.slice(1)
}
