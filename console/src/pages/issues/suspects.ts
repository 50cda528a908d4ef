import { api, must, type Schemas } from '../../api/client'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

type Answer = Schemas['IssueAnswer']
type Step = Schemas['SuspectStep']

/** The suspects of an issue, and the answers that change them. */
export function useSuspects(code: string, id: string) {
  const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/suspects', { params: { path: { code }, query: { issue: id } } })), { household: code })
  const { failure: refusal, busy, act } = useAction()
  const answer = (body: Answer) => act(async () => { data.value = await must(api.POST('/api/v1/households/{code}/issues/{id}/answer', { params: { path: { code, id } }, body })) })
  return { data, failure, reload, refusal, busy, act, answer }
}

/** The question under which what a step showed is noted; "" for a test, which is recorded as such. */
export const noted = (s: Step) => s.question ?? ''

/** The words on the buttons that note what a step showed. */
export const yesOf = (s: Step) => (s.kind === 'look' ? 'It is so' : s.kind === 'swap' ? 'It works then' : 'Yes')
export const noOf = (s: Step) => (s.kind === 'look' ? 'It is not so' : s.kind === 'swap' ? 'It does not' : 'No')
export const beginning = (s: Step) => ({ question: 'Ask: ', look: 'Look: ', swap: 'Swap: ', test: 'Test: ' })[s.kind]

/** What was said to a step, or seen; nothing for: I do not know. */
export const answerTo = (s: Step, said?: 'yes' | 'no'): Answer => ({ question: noted(s), about: s.about?.id ? { kind: s.about.kind, id: s.about.id } : undefined, said })
