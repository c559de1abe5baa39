/** The catalogue as the console asks for it. */

import { get, type Query } from './http'
import type { CatalogueSearch, ItemPage } from './types'

interface Catalogue {
  items: { code: string }[]
  currencies: string[]
}

export function search(asked: Query, signal?: AbortSignal): Promise<CatalogueSearch> {
  return get('/catalogue/search', { limit: 300, ...asked }, signal)
}

export function item(code: string, signal?: AbortSignal): Promise<ItemPage> {
  return get(`/items/${encodeURIComponent(code)}`, {}, signal)
}

/** The currencies that amounts can be shown in. */
export async function currencies(): Promise<string[]> {
  return (await get<Catalogue>('/catalogue')).currencies
}

/** The codes of all items. */
export async function items(): Promise<string[]> {
  return (await get<Catalogue>('/catalogue')).items.map((i) => i.code)
}
