import {
  type LocationQuery,
  type LocationQueryRaw,
  type Router,
  useRoute,
  useRouter,
} from 'vue-router'

/** A value of the address, or undefined where it is not given or empty. */
export function one(query: LocationQuery, name: string): string | undefined {
  const value = query[name]
  return typeof value === 'string' && value !== '' ? value : undefined
}

/** All values of a name, in their order. */
export function several(query: LocationQuery, name: string): string[] {
  return [query[name] ?? []].flat().filter((value): value is string => !!value)
}

let written: { query: LocationQueryRaw; push: boolean } | null = null

/**
 * Several may write into the address at once: what each says stands in it, and a step stays a
 * step.
 */
function write(router: Router, values: LocationQueryRaw, push: boolean): void {
  const now = {
    query: { ...(written?.query ?? router.currentRoute.value.query), ...values },
    push: push || !!written?.push,
  }
  written = now
  const going = now.push ? router.push({ query: now.query }) : router.replace({ query: now.query })
  void going.finally(() => written === now && (written = null))
}

/** What a page shows stands in its address, so that a view can be sent to a colleague. */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()

  /**
   * Set some values; undefined takes one away. A step in the browser's history, unless `replace`.
   */
  function set(values: LocationQueryRaw, replace = false): void {
    write(router, values, !replace)
  }

  return {
    route,
    router,
    set,
    /** What will stand in the address when all that was written is in it. */
    coming: (name: string): unknown => (written?.query ?? route.query)[name],
    one: (name: string) => one(route.query, name),
    several: (name: string) => several(route.query, name),
  }
}
