import { format } from 'echarts/core'

const MOST = 12 // lines; the others are an ellipsis

/** What stands under the pointer in a chart: a head, and lines of a name and its value. */
export interface Tip {
  head: string
  lines: [name: string, value: string][]
}

/** A tip as a chart takes it, which is HTML: names are a source's own words, never marks. */
export function tip({ head, lines }: Tip): string {
  const line = ([name, value]: [string, string]): string =>
    [plain(name), value && `<b>${plain(value)}</b>`].filter(Boolean).join(' ')
  const rest = lines.length > MOST ? ['…'] : []
  return [plain(head), ...lines.slice(0, MOST).map(line), ...rest].filter(Boolean).join('<br>')
}

/** A name at the end of its line as it is, though it may have the braces of a chart's template. */
export const asNamed = (name: string) => (): string => name

const plain = (text: string): string => format.encodeHTML(text)
