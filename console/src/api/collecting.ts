/** Sources, runs, digests, schedules and tags, as the console asks for them. */

import { call, get, patch, post } from './http'
import type {
  Digest,
  Plan,
  Run,
  RunAnswer,
  Schedule,
  ScheduleRequest,
  SourceInfo,
  TagApplied,
  UnmappedTag,
} from './types'

export async function sources(): Promise<SourceInfo[]> {
  return (await get<{ sources: SourceInfo[] }>('/sources')).sources
}

export function plan(source: string, list?: string): Promise<Plan> {
  return post('/collections/plans', { source, list: list || null })
}

export function collect(source: string, list?: string): Promise<Run> {
  return post('/collections', { source, list: list || null })
}

export async function runs(): Promise<Run[]> {
  return (await get<{ runs: Run[] }>('/runs', { limit: 30 })).runs
}

export function run(id: number): Promise<Run> {
  return get(`/runs/${id}`)
}

export type RunCommand = 'pause' | 'resume' | 'cancel' | 'failed'

export function command(id: number, how: RunCommand): Promise<Run> {
  return post(`/runs/${id}/${how}`)
}

/**
 * The run each time it moves, until it ends: server-sent events, read with the token that an
 * EventSource cannot send.
 */
export async function follow(
  id: number,
  each: (run: Run) => void,
  signal: AbortSignal,
): Promise<void> {
  const response = await call(`/runs/${id}/events`, {
    signal,
    headers: { Accept: 'text/event-stream' },
  })
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

/** The answer of long work, when it is there; who gives the question up stops the work too. */
export async function answered<A>(
  run: Run,
  each: (run: Run) => void,
  signal = new AbortController().signal,
): Promise<A> {
  each(run)
  try {
    await follow(run.id, each, signal)
  } catch (error) {
    if (signal.aborted) void command(run.id, 'cancel').catch(() => undefined)
    throw error
  }
  return answer(run.id, signal)
}

/** What a run that is no collection found. */
export function answer<A = RunAnswer>(id: number, signal?: AbortSignal): Promise<A> {
  return get(`/runs/${id}/answer`, {}, signal)
}

export function verify(): Promise<Run> {
  return post('/batches/verification')
}

export function digest(id: number): Promise<Digest> {
  return get(`/digests/${id}`)
}

export async function schedules(): Promise<Schedule[]> {
  return (await get<{ schedules: Schedule[] }>('/schedules')).schedules
}

export async function keepSchedule(asked: Partial<ScheduleRequest>): Promise<void> {
  await post('/schedules', asked)
}

export function runSchedule(name: string): Promise<Run> {
  return post(`/schedules/${encodeURIComponent(name)}/runs`)
}

export function holdSchedule(name: string, paused: boolean): Promise<void> {
  return patch(`/schedules/${encodeURIComponent(name)}`, { paused })
}

/** A tag without an item, and the source that uses it. */
export type SourceTag = UnmappedTag & { source: string }

export async function unmapped(source: string): Promise<SourceTag[]> {
  const found = await get<{ unmapped: UnmappedTag[] }>(
    `/sources/${encodeURIComponent(source)}/tags`,
  )
  return found.unmapped.map((tag) => ({ ...tag, source }))
}

export async function mapTag(
  source: string,
  tag: string,
  item: string,
  who: string,
  each: (run: Run) => void,
): Promise<TagApplied> {
  return answered(
    await post<Run>(`/sources/${encodeURIComponent(source)}/tags`, { tag, item, who }),
    each,
  )
}
