import type { NewParcel } from '../../outbox'
import { scaled } from '../records/pictures'

/** The parcel that brings a photograph of what a test showed, to the attempt with that id. */
export async function photographOf(code: string, room: string, attempt: string, id: string, words: string, file: File): Promise<NewParcel> {
  const body = await scaled(file)
  const query = new URLSearchParams({ id, kind: 'attempt', record: attempt, caption: words.slice(0, 400), fileName: file.name.slice(0, 200) })
  return { code, room, title: `photograph of ${words}`, method: 'POST', path: `/households/${code}/attachments?${query}`, body }
}
