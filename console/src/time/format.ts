/** Days and instants as people read them, UTC. */

const DAY = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'long',
  year: 'numeric',
  timeZone: 'UTC',
})
const SHORT = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
})
const TIME = new Intl.DateTimeFormat('en-GB', {
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
})

export function longDay(iso: string): string {
  return DAY.format(new Date(iso))
}

export function shortDay(iso: string): string {
  return SHORT.format(new Date(iso))
}

/** The day of an instant without its year, where the page says it. */
export const inYear = (at: string): string => shortDay(at.slice(0, 10)).replace(/ \d{4}$/, '')

/** From a day to a day, both included; an open end is one that is not known. */
export function stretch(from: string | null, to: string | null): string {
  if (from && to) return `${shortDay(from)} – ${shortDay(to)}`
  if (from) return `since ${shortDay(from)}`
  return to ? `until ${shortDay(to)}` : 'always'
}

/** An instant; the last minute of a day stands for the whole day, since no time was given (T1). */
export function instant(iso: string): string {
  const at = new Date(iso)
  const wholeDay = at.getUTCHours() === 23 && at.getUTCMinutes() === 59
  return wholeDay ? SHORT.format(at) : `${SHORT.format(at)}, ${TIME.format(at)} UTC`
}
