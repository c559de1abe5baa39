/** Measures, as the console asks for them. */

import { get, patch, post, put } from './http'
import type { Meaning, MeasureInfo, MeasurePage, MeasureRequest } from './types'

export async function measures(): Promise<MeasureInfo[]> {
  return (await get<{ measures: MeasureInfo[] }>('/measures', { archived: true })).measures
}

export function measure(name: string, signal?: AbortSignal): Promise<MeasurePage> {
  return get(`/measures/${encodeURIComponent(name)}`, {}, signal)
}

export async function measureVersions(name: string, signal?: AbortSignal): Promise<MeasurePage[]> {
  return (
    await get<{ versions: MeasurePage[] }>(
      `/measures/${encodeURIComponent(name)}/versions`,
      {},
      signal,
    )
  ).versions
}

export function check(expression: string, signal?: AbortSignal): Promise<Meaning> {
  return post('/measures/check', { expression }, signal)
}

export function keepMeasure(name: string, asked: MeasureRequest): Promise<MeasurePage> {
  return put(`/measures/${encodeURIComponent(name)}`, asked)
}

export function archiveMeasure(name: string, who: string, archived: boolean): Promise<void> {
  return patch(`/measures/${encodeURIComponent(name)}`, { who, archived })
}
