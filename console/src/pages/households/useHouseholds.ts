import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import type { paths } from '../../api/schema'
import { useResource } from '../../useResource'

export type Row = Schemas['HouseholdRow']
type Query = paths['/api/v1/households']['get']['parameters']['query']

export const sorts = [
  { value: 'code', title: 'Code' }, { value: 'name', title: 'Name' }, { value: '-changed', title: 'Last changed' }, { value: '-blockers', title: 'Most blockers' },
  { value: '-open-issues', title: 'Most open issues' }, { value: '-unproven', title: 'Least proven' }, { value: 'due', title: 'Due first' },
]
const pageSize = 50

/** The list of households as the address of the page asks for it, in pages. */
export function useHouseholds() {
  const route = useRoute()
  const router = useRouter()
  const one = (name: string) => computed({
    get: () => String(route.query[name] ?? ''),
    set: (v: string | null) => void router.replace({ query: { ...route.query, [name]: v || undefined } }),
  })
  const words = one('words')
  const sort = one('sort')
  const custodian = one('custodian')
  const withText = one('with')
  const withWhat = computed({ get: () => withText.value.split(',').filter(Boolean), set: (v: string[]) => { withText.value = v.join(',') } })
  const pages = ref(1)
  const more = ref(false)

  const query = (after: string, limit: number) => ({ words: words.value || undefined, sort: sort.value || undefined, custodian: custodian.value || undefined,
    with: withWhat.value.length ? withWhat.value : undefined, after: after || undefined, limit }) as Query
  const page = (after: string, limit: number) => must(api.GET('/api/v1/households', { params: { query: query(after, limit) }, querySerializer: { array: { style: 'form', explode: false } } }))

  const resource = useResource(async () => {
    const all: Row[] = []
    more.value = false
    for (let n = 0; n < pages.value; n++) {
      const got = await page(all.at(-1)?.code ?? '', pageSize)
      all.push(...got)
      more.value = got.length === pageSize
      if (!more.value) break
    }
    return all
  }, { any: true })

  /** Every household that fits, for a file. */
  async function everything(): Promise<Row[]> {
    const all: Row[] = []
    for (;;) {
      const got = await page(all.at(-1)?.code ?? '', 200)
      all.push(...got)
      if (got.length < 200) return all
    }
  }

  watch([words, sort, custodian, withText], () => { pages.value = 1; void resource.reload() })
  const showMore = () => { pages.value++; return resource.reload() }
  const asked = computed(() => !!(words.value || custodian.value || withText.value))
  return { ...resource, words, sort, custodian, withWhat, more, showMore, everything, asked }
}
