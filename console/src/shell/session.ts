import { defineStore } from 'pinia'
import { ref } from 'vue'

const KEPT = 'wise-ledger-token'

/**
 * Who is signed in: the token, kept by the browser until signed out; all tabs are signed in or
 * none.
 */
export const useSession = defineStore('session', () => {
  const token = ref(localStorage.getItem(KEPT) ?? '')
  const ended = ref(false) // the token held once, and does no more

  addEventListener('storage', (event) => {
    if (event.key === KEPT || event.key === null) token.value = localStorage.getItem(KEPT) ?? ''
  })

  async function signIn(given: string): Promise<boolean> {
    const answer = await fetch('/api/v1/lists', { headers: { Authorization: `Bearer ${given}` } })
    if (!answer.ok) return false
    ended.value = false
    token.value = given
    localStorage.setItem(KEPT, given)
    return true
  }

  function signOut(): void {
    token.value = ''
    localStorage.removeItem(KEPT)
  }

  /**
   * The service takes the token no longer; the address stays, so that signing in leads back to it.
   */
  function end(): void {
    ended.value = token.value !== ''
    signOut()
  }

  return { token, ended, signIn, signOut, end }
})
