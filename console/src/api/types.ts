/** The wire's models as the console reads them; the service's OpenAPI document is the source. */

export type Verdict = 'pass' | 'fail' | 'unknown'

export interface Cell {
  value: number | string | null
  reason: string | null
  currency: string | null
  period: string | null
  period_end: string | null
  marks: string[]
  restated: boolean
  restated_later: boolean | null
}

export interface Column {
  expression: string
  unit: string
  percent: boolean
}

export interface ScreenedCompany {
  company: string
  name: string
  symbol: string | null
  industry: string | null
  industry_title: string | null
  template: string | null
  verdict: Verdict
  reason: string | null
  cells: Cell[]
}

export interface ScreenAnswer {
  rule: string
  list: string
  list_title: string
  known_on: string
  batch: number
  counts: { passed: number; failed: number; unknown: number }
  columns: Column[]
  companies: ScreenedCompany[]
}

export interface DocumentInfo {
  sha256: string
  key: string
  title: string
  kind: string
  published_at: string | null
  source: string
  batch: number
  size: number
}

export interface FactInfo {
  sign: number
  item: string
  period_start: string | null
  period_end: string
  value: number | null
  reported: string
  scale: number
  unit: string
  published_at: string
  assumed: boolean
  source: string
  batch: number
  place: string
  document: DocumentInfo
}

export interface Version {
  known_from: string
  value: number | null
  reason: string | null
  marks: string[]
  standing: boolean
  later: boolean
  documents: DocumentInfo[]
}

export interface FigureInput {
  expression: string
  title: string
  unit: string
  value: number | null
  currency: string | null
  period_end: string
  period: string
  form: string
  facts: FactInfo[]
}

export interface Explanation {
  company: string
  name: string
  symbol: string | null
  expression: string
  unit: string
  value: number | string | null
  reason: string | null
  currency: string | null
  marks: string[]
  period: string | null
  period_end: string | null
  known_on: string
  batch: number
  inputs: FigureInput[]
  versions: Version[]
}

export interface ListInfo {
  name: string
  title: string
  companies: number
}

export interface Publications {
  months: { month: string; facts: number }[]
  first: string | null
  last: string | null
  batch: number
}

export interface InputProblem {
  at: string
  value: string
  problem: string
  mend: string
}
