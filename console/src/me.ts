import { reactive } from 'vue'
import { dropDrafts } from './drafts'
import { plain } from './words'
import { api, Failure, must, type Schemas } from './api/client'

/** Who is logged in; undefined until asked, null when nobody is. */
export const me = reactive<{ session: Schemas['Session'] | null | undefined; kinds: Schemas['Kind'][]; people: Schemas['Person'][] }>({ session: undefined, kinds: [], people: [] })

export async function whoAmI(): Promise<boolean> {
  if (me.session !== undefined) return me.session !== null
  try {
    me.session = await must(api.GET('/api/v1/me'))
    await loadFirm()
  } catch (e) {
    if (e instanceof Failure && e.problem.status === 401) me.session = null
    else throw e
  }
  return me.session !== null && me.session !== undefined
}

async function loadFirm() {
  ;[me.kinds, me.people] = await Promise.all([must(api.GET('/api/v1/kinds')), must(api.GET('/api/v1/people'))])
}

export async function logIn(login: string, password: string, code?: string) {
  await must(api.POST('/api/v1/session', { body: { login, password, client: 'console', ...(code && { code }) } }))
  me.session = undefined
  await whoAmI()
}

export async function logOut() {
  await must(api.DELETE('/api/v1/session'))
  await dropDrafts()
  me.session = null
}

export function kindNamed(name: string): Schemas['Kind'] | undefined {
  return me.kinds.find((k) => k.name === name)
}

/** What people call one record of a kind. */
export function nounOf(kind: string): string {
  return kindNamed(kind)?.noun ?? plain(kind)
}

export function personName(id: unknown): string {
  return me.people.find((p) => p.id === id)?.name ?? ''
}
