/** A cell that a spreadsheet would take for a formula has a single quote before it, as has one that looks so already; a number stays a number. */
const defused = (v: string) => (/^'*[=+\-@\t\r]/.test(v) && !/^'*[+-]?\d+([.,]\d+)?$/.test(v) ? `'${v}` : v)

/** Rows as CSV (RFC 4180), with a byte order mark so that spreadsheets read it as UTF-8. */
export function toCsv(rows: (string | number)[][]): string {
  const cell = (v: string | number) => (/[",\r\n]/.test(defused(String(v))) ? `"${defused(String(v)).replaceAll('"', '""')}"` : defused(String(v)))
  return '\uFEFF' + rows.map((r) => r.map(cell).join(',') + '\r\n').join('')
}

/** Hands a text to the person as a file. */
export function saveText(file: string, text: string, type = 'text/plain;charset=utf-8'): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type }))
  link.download = file
  link.click()
  URL.revokeObjectURL(link.href)
}

/** Hands rows to the person as a file. */
export const saveCsv = (name: string, rows: (string | number)[][]): void => saveText(`${name}.csv`, toCsv(rows), 'text/csv;charset=utf-8')
