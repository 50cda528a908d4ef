import { onBeforeUnmount, onMounted } from 'vue'

/** The keyboard of lists: "/" goes to the page's search field, arrow keys walk through its rows. */
export function useRowKeys(): void {
  onMounted(() => document.addEventListener('keydown', press))
  onBeforeUnmount(() => document.removeEventListener('keydown', press))
}

function press(e: KeyboardEvent): void {
  if (e.ctrlKey || e.altKey || e.metaKey || e.defaultPrevented) return
  const at = e.target as HTMLElement
  const typing = at.matches('input, textarea, select, [contenteditable], [role="listbox"] *, [role="combobox"]')
  const search = document.querySelector<HTMLInputElement>('[data-search] input')
  if (e.key === '/' && !typing && search) {
    e.preventDefault()
    search.focus()
    search.select()
    return
  }
  const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')]
  const here = rows.indexOf(at)
  if (!rows.length || (typing && at !== search) || (!typing && here < 0 && at !== document.body)) return
  const next = { ArrowDown: here + 1, ArrowUp: here - 1, Home: here < 0 ? -2 : 0, End: here < 0 ? -2 : rows.length - 1 }[e.key]
  if (next === undefined || next === -2 || (e.key === 'ArrowUp' && here < 0)) return
  e.preventDefault()
  if (next < 0) search?.focus()
  else rows[Math.min(next, rows.length - 1)]?.focus()
}
