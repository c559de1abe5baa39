/** Panels, extracts and kept questions, as the console asks for them. */

import { address, call, get, post, put } from './http'
import type { ExtractInfo, PanelAnswer, PanelPlan, PanelRequest, QuestionInfo } from './types'

export type PanelQuestion = Partial<PanelRequest> & { expressions: string[] }

export function panel(
  asked: { question: PanelQuestion; limit: number; summary: boolean },
  signal?: AbortSignal,
): Promise<PanelAnswer> {
  return post(
    address('/panels', { limit: asked.limit, summary: asked.summary }),
    asked.question,
    signal,
  )
}

export function panelPlan(question: PanelQuestion, signal?: AbortSignal): Promise<PanelPlan> {
  return post('/panels/plan', question, signal)
}

export async function panelFile(question: PanelQuestion, format: string): Promise<Blob> {
  const sent = {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(question),
  }
  return (await call(address('/panels', { format }), sent)).blob()
}

export function askExtract(panel: PanelQuestion, format: string): Promise<ExtractInfo> {
  return post('/extracts', { panel, format })
}

export function extract(id: string): Promise<ExtractInfo> {
  return get(`/extracts/${encodeURIComponent(id)}`)
}

export async function extractFile(id: string): Promise<Blob> {
  return (await call(`/extracts/${encodeURIComponent(id)}/file`)).blob()
}

export async function dropExtract(id: string): Promise<void> {
  await call(`/extracts/${encodeURIComponent(id)}`, { method: 'DELETE' })
}

export async function questions(): Promise<QuestionInfo[]> {
  return (await get<{ questions: QuestionInfo[] }>('/questions', { kind: 'panel' })).questions
}

export function keepQuestion(
  name: string,
  asked: { title: string; description: string; question: PanelQuestion; who: string },
): Promise<QuestionInfo> {
  return put(`/questions/${encodeURIComponent(name)}`, { kind: 'panel', ...asked })
}
