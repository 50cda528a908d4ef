import { computed, reactive, watch } from 'vue'
import type { components } from './api/schema'

type Schemas = components['schemas']

/** One change that is supposed: what it is in words, and the changes of records that it takes. */
export interface SupposedChange { said: string; steps: Schemas['PreviewStep'][] }

/**
 * Changes of one home that are supposed and not made. While they are on, every page of that home is read as if they were made, and
 * nothing can be written there. They belong to this tab, and are kept while it is open. Made is the revision in which the last ones were
 * made.
 */
interface Supposed { code: string; changes: SupposedChange[]; on: boolean; made: number }

const place = 'kaiku-supposed'
const none: Supposed = { code: '', changes: [], on: false, made: 0 }

function kept(): Supposed {
  try {
    return { ...none, ...(JSON.parse(sessionStorage.getItem(place) ?? '{}') as Partial<Supposed>) }
  } catch {
    return { ...none }
  }
}

export const supposed = reactive<Supposed>(kept())
watch(supposed, () => {
  try {
    sessionStorage.setItem(place, JSON.stringify(supposed))
  } catch { /* then it lasts as long as the page */ }
})

/** Whether the pages of this home show it as supposed. */
export const supposing = (code: string) => supposed.on && supposed.code === code && supposed.changes.length > 0

/** Adds a change to those supposed for the home, and shows the home with it. What was supposed for another home is dropped. */
export function suppose(code: string, change: SupposedChange) {
  if (supposed.code !== code) Object.assign(supposed, { code, changes: [] })
  supposed.changes.push(change)
  supposed.on = true
  supposed.made = 0
}

/** Drops one change, or all. */
export function dropSupposed(n?: number) {
  supposed.changes = n === undefined ? [] : supposed.changes.filter((_, i) => i !== n)
  if (!supposed.changes.length) supposed.on = false
}

export const supposedSteps = computed(() => supposed.changes.flatMap((c) => c.steps))

/** What is asked of the home although something is supposed: the comparison, and making it. */
const ofTheRealHome = /\/preview(\/make)?$/

/** The header for a request on that address, or none. It goes with what would write as well, so that the service refuses it. */
export function supposeHeader(url: string): Record<string, string> {
  const [, code] = /\/households\/(H-[0-9]+)(?:[/?]|$)/.exec(url) ?? []
  if (!code || !supposing(code) || ofTheRealHome.test(url.split('?')[0]!)) return {}
  const bytes = new TextEncoder().encode(JSON.stringify(supposedSteps.value))
  return { 'Kaiku-Suppose': btoa(String.fromCharCode(...bytes)).replaceAll('+', '-').replaceAll('/', '_').replaceAll('=', '') }
}
