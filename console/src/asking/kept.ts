/** What another version says of itself: what the one before did, where nothing else is said. */
export function wordsOf(
  own: { title: string; description: string } | undefined,
  title: string,
): { title: string; description: string } {
  return { title: title || (own?.title ?? ''), description: own?.description ?? '' }
}
