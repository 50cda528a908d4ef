import createClient from 'openapi-fetch'
import { supposeHeader } from '../supposed'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']
export type Test = Schemas['Test']
export type Issue = Schemas['Issue']
export type Handover = Schemas['Handover']
export type Kind = Schemas['Kind']
export type Member = Schemas['Member']
/** A record of any kind, whose members its kind describes. */
export type AnyRecord = Record<string, unknown> & { id: string; revision?: number }

export const api = createClient<paths>({ baseUrl: '' })

api.use({
  onRequest({ request }) {
    for (const [name, value] of Object.entries(supposeHeader(request.url))) request.headers.set(name, value)
    if (request.method === 'POST' && !request.headers.has('Idempotency-Key')) request.headers.set('Idempotency-Key', requestKey())
    return request
  },
})

/** An error answer, or that nothing answered at all. */
export class Failure extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
  faultAt(pointer: string): string | undefined {
    return this.problem.faults?.find((f) => f.pointer === pointer)?.detail
  }
}

const unreachable: Problem = {
  type: '', title: 'No answer', status: 0, code: 'unreachable',
  detail: 'Kaiku does not answer.', remedy: 'Check the connection; what you typed is still here.',
}

/** The answer's data, or a Failure. */
export async function must<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  try {
    const { data, error } = await call
    if (error !== undefined) throw new Failure(error as Problem)
    return data as T
  } catch (e) {
    throw asFailure(e)
  }
}

export function asFailure(e: unknown): unknown {
  if (e instanceof Failure || (e instanceof DOMException && e.name === 'AbortError')) return e
  return new Failure(unreachable)
}

/** One request on records of any kind, whose addresses are known only at run time. */
export async function records<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<{ data: T; etag: string }> {
  let response: Response
  try {
    response = await fetch('/api/v1' + path, {
      method, headers: { ...(body === undefined ? {} : { 'Content-Type': 'application/json' }), ...(method === 'POST' ? { 'Idempotency-Key': requestKey() } : {}), ...supposeHeader(path), ...headers },
      body: body === undefined ? undefined : JSON.stringify(body),
    })
  } catch (e) {
    throw asFailure(e)
  }
  const text = await response.text()
  if (!response.ok) throw failureOf(text)
  return { data: (text ? JSON.parse(text) : undefined) as T, etag: response.headers.get('ETag') ?? '' }
}

/** Sends a file or text as it is, and returns the answer. */
export async function sendBytes<T>(path: string, body: BodyInit, headers: Record<string, string> = {}): Promise<T> {
  let response: Response
  try {
    response = await fetch('/api/v1' + path, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream', ...supposeHeader(path), ...headers }, body })
  } catch (e) {
    throw asFailure(e)
  }
  const text = await response.text()
  if (!response.ok) throw failureOf(text)
  return JSON.parse(text) as T
}

/** The failure that an error answer describes. */
export function failureOf(text: string): Failure {
  try {
    return new Failure(JSON.parse(text) as Problem)
  } catch {
    return new Failure(unreachable)
  }
}

/** A key of its own for each request; crypto.randomUUID is missing on plain http. */
export function requestKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}
