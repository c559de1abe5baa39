/**
 * Where the JSON pointer's element stands in the text: the n-th object of the array that it names.
 */
export function locate(source: string, pointer: string): [number, number] | null {
  const [, name, index] = pointer.split('/')
  let at = name ? source.indexOf(`"${name}"`) : -1
  if (at < 0 || index === undefined) return null
  let end = at
  for (let i = 0; i <= Number(index); i++) {
    at = source.indexOf('{', end)
    if (at < 0) return null
    end = source.indexOf('}', at) + 1
  }
  return [at, end]
}
