/** The console in a window without a browser, before a service that answers as the test says. */

import { createPinia } from 'pinia'
import { afterEach, vi } from 'vitest'
import { createApp, type App } from 'vue'

import Console from '../../src/App.vue'
import { router } from '../../src/router'
import { vuetify } from '../../src/theme'
import { type Operation, operationOf } from './document'

/** What the service answers to an operation; it may never come, or be none. */
export type Answers = (operation: Operation) => unknown

export const NEVER = new Promise<never>(() => undefined)

// A window without a browser has no sizes: a chart wants one, what floats wants to be in sight.
const seen = { width: 1280, height: 800, scale: 1, offsetLeft: 0, offsetTop: 0 }
vi.stubGlobal('visualViewport', Object.assign(new EventTarget(), seen))
for (const side of ['clientWidth', 'clientHeight']) {
  Object.defineProperty(HTMLElement.prototype, side, { configurable: true, get: () => 600 })
}

// It draws on no canvas either.
const canvas = {
  fillRect: () => undefined,
  drawImage: () => undefined,
  measureText: (text: string) => ({ width: 7 * text.length }),
}
HTMLCanvasElement.prototype.getContext = (() => canvas) as never

let shown: App | undefined
export const wrong: string[] = [] // what the page complained of

export function refused(status: number, title: string, detail: string): Response {
  const headers = { 'Content-Type': 'application/problem+json' }
  return new Response(JSON.stringify({ title, detail, status }), { status, headers })
}

async function answer(address: string, init: RequestInit, answers: Answers): Promise<Response> {
  const [method, path] = [init.method ?? 'GET', new URL(address, 'http://ledger.example').pathname]
  const operation = operationOf(method, path)
  if (!operation) wrong.push(`${method} ${path} is asked for, and is not in the OpenAPI document`)
  if (!operation) return refused(404, 'Not found', path)
  const found = await answers(operation)
  if (found instanceof Response) return found
  if (!operation.type) return new Response(null, { status: operation.status })
  const text = operation.type === 'application/json' ? JSON.stringify(found) : String(found)
  const headers = { 'Content-Type': operation.type }
  return new Response(text, { status: operation.status, headers })
}

/** Until all that was asked is answered and drawn, or waits for good. */
export async function settled(): Promise<void> {
  for (let turn = 0; turn < 12; turn++) await new Promise((soon) => setTimeout(soon, 0))
}

/** A signed-in page at an address. */
export async function open(path: string, answers: Answers): Promise<HTMLElement> {
  localStorage.setItem('wise-ledger-token', 'a-token')
  const fetched = (address: string, init: RequestInit = {}) => answer(address, init, answers)
  vi.stubGlobal('fetch', fetched)
  const complained = (...words: unknown[]): void => void wrong.push(words.map(String).join(' '))
  for (const level of ['error', 'warn'] as const) {
    vi.spyOn(console, level).mockImplementation(complained)
  }
  const place = document.body.appendChild(document.createElement('div'))
  shown = createApp(Console)
  shown.config.errorHandler = (error) => {
    wrong.push((error instanceof Error && error.stack) || String(error))
  }
  shown.use(createPinia()).use(router).use(vuetify)
  await router.push(path)
  shown.mount(place)
  await settled()
  return place
}

export function close(): void {
  shown?.unmount()
  shown = undefined
  document.body.replaceChildren()
}

process.on('unhandledRejection', (error) => void wrong.push(String(error)))

afterEach(() => {
  close()
  wrong.length = 0
  vi.restoreAllMocks()
})
