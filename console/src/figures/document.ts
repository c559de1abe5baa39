import { ref, shallowRef } from 'vue'

import type { DocumentInfo } from '../api/types'

/** The document that a page has open, and the place in it that is marked. */
export function useDocument() {
  const document = shallowRef<DocumentInfo | null>(null)
  const place = ref('')

  function open(chosen: DocumentInfo, at: string): void {
    document.value = chosen
    place.value = at
  }

  function close(): void {
    document.value = null
  }

  return { document, place, open, close }
}
