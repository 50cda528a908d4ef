/** How far a measurement is: its phase, the picture so far, and what is said of now. */
export interface Progress { phase: 'latency' | 'down' | 'up'; points: { share: number; mbps: number }[]; now: string }
export interface Result { latencyMs: number; jitterMs: number; downMbps: number }

const pings = 25
const flowMs = 5000
const slowStartMs = 1500 // TCP still looks for its rate
const stepMs = 200

/** Measures to Kaiku: time and jitter by small requests, then throughput each way. What arrives at Kaiku is counted there. */
export async function measure(code: string, run: string, tell: (p: Progress) => void): Promise<Result> {
  const at = (what: string) => `/api/v1/measure/${encodeURIComponent(code)}/${what}?run=${run}`
  const { latencyMs, jitterMs } = await latency(at('ping'), tell)
  const downMbps = await down(at('down'), tell)
  await up(at('up'), tell)
  return { latencyMs, jitterMs, downMbps }
}

async function latency(url: string, tell: (p: Progress) => void) {
  const times: number[] = []
  for (let n = 0; n < pings; n++) {
    const began = performance.now()
    const r = await fetch(url, { cache: 'no-store' })
    if (!r.ok) throw new Error('the measurement was ended')
    if (n) times.push(performance.now() - began) // the first also connects
    tell({ phase: 'latency', points: [], now: times.length ? `${times.at(-1)!.toFixed(1)} ms` : '' })
  }
  const jitter = times.slice(1).reduce((sum, t, i) => sum + Math.abs(t - times[i]!), 0) / (times.length - 1)
  return { latencyMs: [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)]!, jitterMs: jitter }
}

/** Bytes by time, with the rate since the slow start and the picture of the last steps. */
class Flow {
  readonly began = performance.now()
  readonly points: { share: number; mbps: number }[] = []
  private steps: number[] = [] // bytes of each step since the slow start
  private last = 0
  private stepAt = this.began
  private stepBytes = 0
  constructor(private phase: 'down' | 'up', private tell: (p: Progress) => void) {}

  arrived(total: number) {
    const now = performance.now()
    const step = Math.floor((now - this.began - slowStartMs) / stepMs)
    if (step >= 0) {
      while (this.steps.length <= step) this.steps.push(0)
      this.steps[step]! += total - this.last
    }
    this.last = total
    if (now - this.stepAt >= stepMs) {
      const mbps = ((total - this.stepBytes) * 8) / 1000 / (now - this.stepAt)
      this.points.push({ share: Math.min(1, (now - this.began) / flowMs), mbps })
      this.stepAt = now
      this.stepBytes = total
      this.tell({ phase: this.phase, points: [...this.points], now: `${mbps < 100 ? mbps.toFixed(1) : Math.round(mbps)} Mb/s` })
    }
  }
  get over() { return performance.now() - this.began >= flowMs }
  /** The mean of the steps since the slow start, without the slowest and the fastest; the same as in the service. */
  get mbps() {
    const whole = this.steps.slice(0, -1).sort((a, b) => a - b)
    const out = Math.floor(0.15 * whole.length)
    const kept = whole.slice(out, whole.length - out)
    return kept.length ? (kept.reduce((sum, b) => sum + b, 0) / kept.length / stepMs / 1000) * 8 : 0
  }
}

async function down(url: string, tell: (p: Progress) => void): Promise<number> {
  const stop = new AbortController()
  const r = await fetch(url, { cache: 'no-store', signal: stop.signal })
  if (!r.ok || !r.body) throw new Error('the measurement was ended')
  const reader = r.body.getReader()
  const flow = new Flow('down', tell)
  let total = 0
  while (!flow.over) {
    const { done, value } = await reader.read()
    if (done) break
    total += value.length
    flow.arrived(total)
  }
  stop.abort()
  return flow.mbps
}

/** Sends until the time is over; one request after the other, since browsers send no endless body. */
async function up(url: string, tell: (p: Progress) => void): Promise<void> {
  const chunk = new Uint8Array(1 << 20)
  for (let i = 0; i < chunk.length; i += 65536) crypto.getRandomValues(chunk.subarray(i, i + 65536))
  const body = new Blob(Array.from({ length: 32 }, () => chunk))
  const flow = new Flow('up', tell)
  let sent = 0
  while (!flow.over) {
    sent = await new Promise<number>((resolve, reject) => {
      const x = new XMLHttpRequest()
      let here = 0
      x.open('POST', url)
      x.upload.onprogress = (e) => {
        here = e.loaded
        flow.arrived(sent + here)
        if (flow.over) x.abort()
      }
      x.onload = () => { if (x.status < 300) { resolve(sent + body.size) } else { reject(new Error('the measurement was ended')) } }
      x.onabort = () => resolve(sent + here)
      x.onerror = () => reject(new Error('no answer'))
      x.send(body)
    })
  }
}
