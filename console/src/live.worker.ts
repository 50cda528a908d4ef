/** The browser's one stream of events, shared by all its tabs. */
import { follow, type News } from './follow'

interface Shared { onconnect: ((e: MessageEvent) => void) | null }

const ports = new Set<MessagePort>()
let last: News = { kind: 'state', connected: undefined }

;(self as unknown as Shared).onconnect = (e) => {
  const port = e.ports[0]
  if (!port) return
  ports.add(port)
  port.onmessage = (m) => { if (m.data === 'bye') ports.delete(port) }
  port.start()
  port.postMessage(last)
}

follow((news) => {
  if (news.kind === 'state') last = news
  for (const p of ports) p.postMessage(news)
})
