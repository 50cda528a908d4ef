/**
 * What is being typed, kept in the browser until the server has it: a phone that throws the page
 * away loses nothing. One draft for each place, such as H-0001/device/new.
 */
export interface Draft { place: string; at: number; key: string; etag: string; values: Record<string, unknown> }

const name = 'kaiku-drafts'
let opened: Promise<IDBDatabase> | undefined

function open(): Promise<IDBDatabase> {
  opened ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(name, 1)
    request.onupgradeneeded = () => request.result.createObjectStore('drafts', { keyPath: 'place' })
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(request.error ?? new Error('drafts cannot be kept'))
  })
  return opened
}

async function run<T>(mode: IDBTransactionMode, work: (s: IDBObjectStore) => IDBRequest<T>): Promise<T | undefined> {
  try {
    const db = await open()
    return await new Promise<T>((resolve, reject) => {
      const t = db.transaction('drafts', mode, { durability: 'strict' })
      const request = work(t.objectStore('drafts'))
      t.oncomplete = () => resolve(request.result)
      t.onabort = () => reject(t.error ?? new Error('draft not kept'))
    })
  } catch {
    return undefined // a browser that keeps nothing (a private window) still lets people type
  }
}

export const keepDraft = (d: Draft) => run('readwrite', (s) => s.put(d))
export const dropDraft = (place: string) => run('readwrite', (s) => s.delete(place))
export const draftOf = (place: string) => run<Draft | undefined>('readonly', (s) => s.get(place) as IDBRequest<Draft | undefined>)

/** Removes what everyone typed on this browser: whoever logs in next shall not read it. */
export const dropDrafts = () => run('readwrite', (s) => s.clear())
