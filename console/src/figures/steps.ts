/**
 * The cells `row:column` that a key leads to from one, the nearest that is wished for first; none
 * for any other key. Column -1 is what stands before the figures, that behind the last one what
 * stands after them.
 */
export function step(from: string, key: string, rows: number, columns: number): string[] {
  const [row, column] = from.split(':').map(Number) as [number, number]
  const across = (begin: number, by: 1 | -1): string[] => {
    const out = []
    for (let c = begin; c >= -1 && c <= columns; c += by) out.push(`${row}:${c}`)
    return out
  }
  const down = (by: number): string[] => {
    const to = Math.min(rows - 1, Math.max(0, row + by))
    return to === row ? [] : [`${to}:${column}`, `${to}:0`]
  }
  switch (key) {
    case 'ArrowLeft':
      return across(column - 1, -1)
    case 'ArrowRight':
      return across(column + 1, 1)
    case 'Home':
      return across(-1, 1)
    case 'End':
      return across(columns, -1)
    case 'ArrowUp':
      return down(-1)
    case 'ArrowDown':
      return down(1)
    case 'PageUp':
      return down(-12)
    case 'PageDown':
      return down(12)
    default:
      return []
  }
}
