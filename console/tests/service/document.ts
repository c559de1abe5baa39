/** The service's own OpenAPI document: whose operation a request is, its example, other answers. */

import fc from 'fast-check'

import document from '../../openapi.json'

export type Schema = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any

export interface Operation {
  method: string
  path: string
  matches: RegExp
  status: number
  type: string
  schema: Schema
  example: unknown
}

const whole = document as unknown as {
  paths: Record<string, Record<string, Schema>>
  components: { schemas: Record<string, Schema> }
}

/** What is answered where all is well: as JSON where it can be. */
function answerOf(operation: Schema): Omit<Operation, 'method' | 'path' | 'matches'> | null {
  for (const [status, response] of Object.entries<Schema>(operation.responses)) {
    if (!status.startsWith('2')) continue
    const kinds = Object.entries<Schema>(response.content ?? {})
    const asJson = kinds.find(([kind]) => kind === 'application/json')
    const [type, content] = asJson ?? kinds[0] ?? ['', {}]
    return { status: Number(status), type, schema: content.schema ?? {}, example: content.example }
  }
  return null
}

export const OPERATIONS: Operation[] = Object.entries(whole.paths)
  .flatMap(([path, methods]) =>
    Object.entries(methods).flatMap(([method, operation]) => {
      const answer = answerOf(operation)
      const matches = new RegExp(`^${path.replace(/\{[^}]+\}/g, '[^/]+')}$`)
      return answer ? [{ method: method.toUpperCase(), path, matches, ...answer }] : []
    }),
  )
  .sort((a, b) => Number(a.path.includes('{')) - Number(b.path.includes('{')))

/** The operation that a request is for. */
export function operationOf(method: string, path: string): Operation | undefined {
  return OPERATIONS.find((o) => o.method === method && o.matches.test(path))
}

function resolved(schema: Schema | true): Schema {
  if (schema === true) return {}
  return schema.$ref ? whole.components.schemas[schema.$ref.split('/').at(-1)]! : schema
}

const day = fc
  .date({ min: new Date('1990-01-01'), max: new Date('2026-01-01'), noInvalidDate: true })
  .map((d) => d.toISOString())
const word = fc.constantFrom(
  'Ashgrove',
  'revenue',
  'EUR',
  'FY2023',
  '<b>&"',
  'Ünïcode 株式',
  'مثال',
  'w'.repeat(300),
  "o'clock; drop",
  '=1+1',
  '-',
)
// A chart's library finds no ticks where figures have no six digits in common, and says so.
const number = fc.oneof(
  fc.constantFrom(0, -0.004, 123.456),
  fc.integer({ min: -10_000_000, max: 10_000_000 }).map((n) => n / 1000),
)
const MONTH = /^\d{4}-\d\d$/

/**
 * What a value may be besides, by its schema; a list keeps the length that others beside it have.
 */
export function varied(given: Schema, value: unknown): fc.Arbitrary<unknown> {
  const schema = resolved(given)
  const kinds: Schema[] | undefined = schema.anyOf ?? schema.oneOf
  if (kinds) {
    const nothing = kinds.some((k) => k.type === 'null')
    const same = kinds.filter((k) => fits(k, value)).map((k) => varied(k, value))
    return fc.oneof(
      { weight: 1, arbitrary: fc.constant(nothing ? null : value) },
      ...same.map((arbitrary) => ({ weight: 4, arbitrary })),
    )
  }
  if (schema.allOf) return varied(schema.allOf[0], value)
  if ('const' in schema) return fc.constant(value)
  if (schema.enum) return fc.constantFrom(...schema.enum)
  if (Array.isArray(value)) return fc.tuple(...value.map((v) => varied(schema.items ?? {}, v)))
  if (value !== null && typeof value === 'object') {
    const named = schema.properties ?? {}
    const own = Object.entries(value).map(([name, v]) => {
      return [name, varied(named[name] ?? schema.additionalProperties ?? {}, v)]
    })
    return fc.record(Object.fromEntries(own))
  }
  if (typeof value === 'boolean') return fc.boolean()
  if (schema.type === 'number') return number
  if (schema.format === 'date') return day.map((d) => d.slice(0, 10))
  if (schema.format === 'date-time') return day
  if (typeof value === 'string' && schema.type === 'string' && !MONTH.test(value)) {
    return fc.oneof(word, fc.constant(value))
  }
  return fc.constant(value) // counts and places, which must fit what stands beside them
}

function fits(given: Schema, value: unknown): boolean {
  const schema = resolved(given)
  if (schema.enum) return schema.enum.includes(value)
  const kind = value === null ? 'null' : Array.isArray(value) ? 'array' : typeof value
  const needed: string[] = kind === 'object' ? (schema.required ?? []) : []
  if (!needed.every((name) => name in (value as object))) return false
  if (schema.type === 'integer') return Number.isInteger(value)
  return schema.type === undefined || schema.type === kind
}

/** Nothing there: every list of an answer is empty. */
export function emptied(value: unknown): unknown {
  if (value === null || typeof value !== 'object') return value
  if (Array.isArray(value)) return []
  return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, emptied(v)]))
}

/** One of each: lists of one, and a count is one. */
export function single(value: unknown): unknown {
  if (typeof value === 'number') return Number.isInteger(value) ? 1 : value
  if (value === null || typeof value !== 'object') return value
  if (Array.isArray(value)) return value.slice(0, 1).map(single)
  return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, single(v)]))
}
