/** Every address of the router, with a question where a page asks one; what stands on a page. */

export const PAGES = [
  '/screens?rule=revenue.ttm > 0',
  '/companies',
  '/companies/AGK@ZALD?beside=first-look',
  '/directories/venues',
  '/directories/securities',
  '/directories/listings',
  '/lists?list=first-look',
  '/lists?list=first-look&view=history',
  '/catalogue',
  '/catalogue/revenue',
  '/statements?company=AGK@ZALD',
  '/statements?company=AGK@ZALD&statement=restatements',
  '/statements',
  '/market?list=first-look',
  '/estimates?company=AGK@ZALD',
  '/estimates',
  '/calendar',
  '/series?s=OUTPUT/Q.XA.TOTAL.VOLUME',
  '/series?s=OUTPUT/Q.XA.TOTAL.VOLUME&view=vintages',
  '/series?s=OUTPUT/Q.XA.TOTAL.VOLUME&view=compare',
  '/series?s=OUTPUT/Q.XA.TOTAL.VOLUME&view=changes',
  '/measures',
  '/measures/return_on_equity',
  '/panels?c=revenue',
  '/collect',
  '/runs/1',
  '/tokens',
  '/quality',
  '/quality?view=market',
  '/quality?view=coverage',
  '/match',
]

/** What stands on a page, and what is said of it to who cannot see it. */
export function words(page: HTMLElement): string {
  const said = page.innerHTML.replace(/<[^>]*?(?:aria-label|title)="([^"]*)"[^>]*>/g, ' $1 ')
  return said
    .replace(/<!--.*?-->|<[^>]*>/g, ' ')
    .replaceAll('&nbsp;', ' ')
    .replace(/\s+/g, ' ')
}

/** Words that are a machine's, with what stands about them. */
export function machines(text: string): RegExpMatchArray | null {
  return text.match(/.{0,30}\b(undefined|NaN|null|Invalid Date|\[object Object\]).{0,30}/g)
}
