import { call, post } from './ledger'
import type { Digest, Plan, Run, Schedule, SourceInfo, UnmappedTag } from './types'

export async function sources(): Promise<SourceInfo[]> {
  return (await (await call('/sources')).json()).sources
}

export async function plan(source: string, list?: string): Promise<Plan> {
  return (await post('/collections/plans', { source, list: list || null })).json()
}

export async function collect(source: string, list?: string): Promise<Run> {
  return (await post('/collections', { source, list: list || null })).json()
}

export async function runs(): Promise<Run[]> {
  return (await (await call('/runs?limit=30')).json()).runs
}

export async function run(id: number): Promise<Run> {
  return (await call(`/runs/${id}`)).json()
}

export async function turn(id: number, how: 'pause' | 'resume' | 'cancel' | 'failed'): Promise<Run> {
  return (await post(`/runs/${id}/${how}`, null)).json()
}

/** The run each time it moves, until it ends: server-sent events, read with the token that an EventSource cannot send. */
export async function follow(id: number, each: (run: Run) => void, signal: AbortSignal): Promise<void> {
  const response = await call(`/runs/${id}/events`, { signal, headers: { Accept: 'text/event-stream' } })
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader()
  let kept = ''
  let kind = ''
  for (;;) {
    const { value, done } = await reader.read()
    if (done) return
    kept += value
    const lines = kept.split(/\r?\n/)
    kept = lines.pop() ?? ''
    for (const line of lines) {
      if (line.startsWith('event: ')) kind = line.slice(7)
      if (line.startsWith('data: ') && kind === 'run') each(JSON.parse(line.slice(6)))
    }
  }
}

export async function digest(id: number): Promise<Digest> {
  return (await call(`/digests/${id}`)).json()
}

export async function schedules(): Promise<Schedule[]> {
  return (await (await call('/schedules')).json()).schedules
}

export async function keepSchedule(asked: object): Promise<void> {
  await post('/schedules', asked)
}

export async function runSchedule(name: string): Promise<Run> {
  return (await post(`/schedules/${name}/runs`, null)).json()
}

export async function holdSchedule(name: string, paused: boolean): Promise<void> {
  const headers = { 'Content-Type': 'application/json' }
  await call(`/schedules/${name}`, { method: 'PATCH', headers, body: JSON.stringify({ paused }) })
}

export async function unmapped(source: string): Promise<UnmappedTag[]> {
  return (await (await call(`/sources/${source}/tags`)).json()).unmapped
}

export async function mapTag(source: string, tag: string, item: string, who: string): Promise<{ facts: number; documents: number }> {
  return (await post(`/sources/${source}/tags`, { tag, item, who })).json()
}
