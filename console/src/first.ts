import type { Directive } from 'vue'

/**
 * Puts the cursor into a field once, when it appears. The library's own autofocus takes the focus
 * again each time the field scrolls into view, from whoever is typing elsewhere.
 */
export const first: Directive<HTMLElement, boolean | undefined> = {
  mounted(el, { value }) {
    if (value !== false) el.querySelector<HTMLElement>('input, textarea')?.focus()
  },
}

declare module 'vue' {
  interface GlobalDirectives { vFirst: typeof first }
}
