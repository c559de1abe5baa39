import { defineStore } from 'pinia'
import { ref } from 'vue'

const KEPT = 'wise-ledger-token'

/** Who is signed in: the token, kept by the browser until signed out. */
export const useSession = defineStore('session', () => {
  const token = ref(localStorage.getItem(KEPT) ?? '')

  async function signIn(given: string): Promise<boolean> {
    const answer = await fetch('/api/v1/lists', { headers: { Authorization: `Bearer ${given}` } })
    if (!answer.ok) return false
    token.value = given
    localStorage.setItem(KEPT, given)
    return true
  }

  function signOut(): void {
    token.value = ''
    localStorage.removeItem(KEPT)
  }

  return { token, signIn, signOut }
})
