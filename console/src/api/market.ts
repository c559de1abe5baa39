/** Prices, levels and the market of a list, as the console asks for them. */

import { get, post } from './http'
import type { Calendar, Estimates, Levels, Market, Prices } from './types'

export interface PricesQuestion {
  companies: string[]
  known_on: string
  start?: string
  frequency: 'day' | 'week' | 'month'
  adjusted: boolean
}

export function prices(asked: PricesQuestion, signal?: AbortSignal): Promise<Prices> {
  return post('/prices', asked, signal)
}

export function levels(
  list: string,
  known_on: string,
  start: string,
  signal?: AbortSignal,
): Promise<Levels> {
  return get('/levels', { list, known_on, start }, signal)
}

export interface MarketQuestion {
  list?: string
  known_on: string
  currency?: string
}

export function market(asked: MarketQuestion, signal?: AbortSignal): Promise<Market> {
  return get('/market', { ...asked }, signal)
}

export interface EstimatesQuestion {
  company: string
  known_on: string
  measure: string
  period?: string
  max_age?: number
}

export function estimates(asked: EstimatesQuestion, signal?: AbortSignal): Promise<Estimates> {
  return get('/estimates', { ...asked }, signal)
}

export interface CalendarQuestion {
  list?: string
  company?: string[]
  known_on: string
  measure: string
  start?: string
  end?: string
}

export function calendar(asked: CalendarQuestion, signal?: AbortSignal): Promise<Calendar> {
  return get('/estimates/calendar', { ...asked }, signal)
}
