import { type LocationQuery, type LocationQueryRaw, useRoute, useRouter } from 'vue-router'

/** A value of the address, or undefined where it is not given or empty. */
export function one(query: LocationQuery, name: string): string | undefined {
  const value = query[name]
  return typeof value === 'string' && value !== '' ? value : undefined
}

/** All values of a name, in their order. */
export function several(query: LocationQuery, name: string): string[] {
  return [query[name] ?? []].flat().filter((value): value is string => !!value)
}

/** What a page shows stands in its address, so that a view can be sent to a colleague. */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()

  /** Set some values; undefined takes one away. A step in the browser's history, unless `replace`. */
  function set(values: LocationQueryRaw, replace = false): void {
    const to = { query: { ...route.query, ...values } }
    void (replace ? router.replace(to) : router.push(to))
  }

  return {
    route,
    router,
    set,
    one: (name: string) => one(route.query, name),
    several: (name: string) => several(route.query, name),
  }
}
