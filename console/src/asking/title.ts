import { watchEffect } from 'vue'
import { useRoute } from 'vue-router'

/** The title of the window names what is shown, then the page. */
export function useTitle(parts: () => (string | undefined)[]): void {
  const route = useRoute()
  watchEffect(() => {
    document.title = [...new Set([...parts(), String(route.meta.title), 'Wise Ledger'])]
      .filter(Boolean)
      .join(' · ')
  })
}
