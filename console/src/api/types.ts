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
  tag: string | null
  turned: boolean
  document: DocumentInfo
}

export interface TreeNode {
  form: string
  sign: number
  value: number | null
  currency: string | null
  period_end: string
  fact: FactInfo | null
  parts: TreeNode[]
}

export interface Version {
  known_from: string
  value: number | null
  reason: string | null
  marks: string[]
  standing: boolean
  later: boolean
  by_split: boolean
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
  tree: TreeNode | null
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
  conversions: { expression: string; source: string; target: string; rate: number | null; start: string | null; end: string }[]
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

export interface SourceInfo {
  name: string
  title: string
  offers: string[]
  per_second: number | null
  per_day: number | null
  at_once: number
  used_today: number
  left_alone_until: string | null
  last_run: number | null
  last_ended: string | null
}

export interface Plan {
  companies: number
  unchanged: number
  filings: number
  calls: number
  seconds: number
  used_today: number
  per_day: number | null
  needs_confirmation: boolean
}

export interface Outcome {
  subject: string
  company: string | null
  state: 'stored' | 'unchanged' | 'failed'
  reason: string
  facts: number
  tries: number
  batch: number | null
}

export interface Run {
  id: number
  source: string
  list: string | null
  failed_of: number | null
  schedule: string | null
  state: 'queued' | 'running' | 'paused' | 'finished' | 'partly_finished' | 'failed' | 'cancelled'
  problem: string | null
  total: number | null
  done: number
  stored: number
  unchanged: number
  failed: number
  facts: number
  requests: number
  bytes: number
  seconds_left: number | null
  waits_until: string | null
  created_at: string
  ended_at: string | null
  outcomes: Outcome[]
}

export interface Change {
  company: string
  name: string
  item: string
  period_end: string
  unit: string
  old: number | null
  new: number | null
  percent: number | null
  published_at: string
  document: string
}

export interface Digest {
  run: number
  source: string
  state: string
  made_at: string
  counts: Record<string, number>
  companies: { company: string; name: string }[]
  periods: { company: string; name: string; periods: number; first: string; last: string; facts: number }[]
  restatements: Change[]
  withdrawn: Change[]
  unmapped: { tag: string; documents: number }[]
  failed: { subject: string; company: string | null; reason: string }[]
  deliveries: { channel: string; target: string; state: string; reason: string }[]
}

export interface Schedule {
  name: string
  source: string
  list: string | null
  timing: { every: string | null; at: string[]; days: string; older_than: string | null }
  notify: string[]
  who: string
  paused: boolean
  next_at: string | null
  last_run: number | null
  last_state: string | null
  last_facts: number | null
}

export interface UnmappedTag {
  tag: string
  documents: number
  companies: number
  example: string
}
