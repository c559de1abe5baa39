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
  rule: string | null
  description: string
  archived: boolean
  kept_by: string | null
}

export interface Member extends CompanyInfo {
  weight: number | null
  cells: Cell[]
}

export interface ListMembers {
  name: string
  title: string
  description: string
  archived: boolean
  kept_by: string | null
  unknown: number
  on: string
  columns: Column[]
  members: Member[]
}

export interface ListVersion {
  batch: number
  recorded_at: string
  who: string
  joined: string[]
  left: string[]
  title: string | null
  description: string | null
  archived: boolean | null
}

export interface VenueCount {
  mic: string
  country: string | null
  security_type: string
  listings: number
  companies: number
}

export interface SecurityInfo {
  id: string
  company: string
  name: string
  type: string
  ratio: number | null
  listings: ListingInfo[]
}

export interface ListedCompany {
  company: string
  name: string
  country: string | null
  active: boolean
  listing: ListingInfo
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

export type MatchOutcome = 'matched' | 'ambiguous' | 'renamed' | 'inactive' | 'invalid' | 'not_found'

export interface ListingInfo {
  id: string
  symbol: string
  mic: string
  currency: string
  security: string
  security_type: string
  valid_from: string | null
  valid_to: string | null
  primary: boolean
}

export interface CompanyInfo {
  id: string
  name: string
  country: string | null
  seat: string | null
  industry: string | null
  industry_title: string | null
  website: string | null
  description: string | null
  active: boolean
  score: number
  why: string
  listings: ListingInfo[]
}

export interface TermAsked {
  text: string
  venue: string | null
  country: string | null
}

export interface TermsRead {
  columns: string[]
  column: string | null
  terms: TermAsked[]
  notes: string[]
}

export interface MatchRow {
  term: string
  scheme: string
  outcome: MatchOutcome
  company: CompanyInfo | null
  candidates: CompanyInfo[]
  notes: string[]
  repair: string[]
  decided: string | null
}

export interface MatchAnswer {
  on: string
  batch: number
  counts: Record<MatchOutcome, number>
  rows: MatchRow[]
}

export interface Companies {
  companies: CompanyInfo[]
  total: number
  on: string
}

export interface SpanInfo {
  kind: string
  value: string
  of: string | null
  valid_from: string | null
  valid_to: string | null
}

export interface CompanyPage {
  company: CompanyInfo
  known_on: string
  batch: number
  ended: string | null
  end_cause: string | null
  names: SpanInfo[]
  identifiers: SpanInfo[]
  attributes: SpanInfo[]
  listings: ListingInfo[]
  holdings: { item: string; facts: number; first_period_end: string; last_period_end: string; last_published: string }[]
  documents: DocumentInfo[]
}
