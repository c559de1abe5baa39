/** Tokens, as the console asks for them. */

import { get, post, remove } from './http'
import type { MadeToken, TokenInfo } from './types'

export async function tokens(): Promise<TokenInfo[]> {
  return (await get<{ tokens: TokenInfo[] }>('/tokens')).tokens
}

export function makeToken(name: string, days: number | null): Promise<MadeToken> {
  return post('/tokens', { name, days })
}

export function revokeToken(id: string): Promise<TokenInfo> {
  return remove(`/tokens/${encodeURIComponent(id)}`)
}
