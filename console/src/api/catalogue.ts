/** The catalogue as the console asks for it. */

import { get, type Query } from './http'
import type { CatalogueSearch, ItemPage } from './types'

interface Catalogue {
  items: { code: string; title: string }[]
  currencies: string[]
}

export function search(asked: Query, signal?: AbortSignal): Promise<CatalogueSearch> {
  return get('/catalogue/search', { limit: 300, ...asked }, signal)
}

export function item(code: string, signal?: AbortSignal): Promise<ItemPage> {
  return get(`/items/${encodeURIComponent(code)}`, {}, signal)
}

let known: Promise<Catalogue> | undefined
const FRESH = 60_000 // ms for which several parts of a page share one answer

/** The catalogue, asked for once by all who need a piece of it. */
function catalogue(): Promise<Catalogue> {
  if (!known) {
    const asked = (known = get<Catalogue>('/catalogue'))
    const forget = (): void => {
      if (known === asked) known = undefined
    }
    asked.then(() => setTimeout(forget, FRESH), forget)
  }
  return known
}

/** The currencies that amounts can be shown in. */
export async function currencies(): Promise<string[]> {
  return (await catalogue()).currencies
}

/** The codes of all items. */
export async function items(): Promise<string[]> {
  return (await catalogue()).items.map((i) => i.code)
}

/** What items are called, by their codes. */
export async function itemTitles(): Promise<Map<string, string>> {
  return new Map((await catalogue()).items.map((i) => [i.code, i.title]))
}
