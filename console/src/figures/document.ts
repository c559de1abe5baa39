import { computed } from 'vue'

import type { DocumentInfo } from '../api/types'
import { useAddress } from '../asking/address'

/**
 * The document that a page has open, and the place in it that is marked: in the address, as all
 * that is shown.
 */
export function useDocument() {
  const { one, set } = useAddress()
  const address = computed(() => one('document') ?? null)
  const place = computed(() => one('place') ?? '')

  function open(chosen: Pick<DocumentInfo, 'sha256'> | string, at = ''): void {
    set({ document: typeof chosen === 'string' ? chosen : chosen.sha256, place: at || undefined })
  }

  function close(): void {
    set({ document: undefined, place: undefined })
  }

  return { address, place, open, close }
}
