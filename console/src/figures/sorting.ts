/**
 * Rows in an order, `-` before the name for the highest first; what is missing comes last, equals
 * stay as they were.
 */
export function inOrder<Row>(
  rows: Row[],
  by: string | undefined,
  valueOf: (row: Row, name: string) => unknown,
): Row[] {
  if (!by) return rows
  const [sign, name] = by.startsWith('-') ? [-1, by.slice(1)] : [1, by]
  return [...rows].sort((a, b) => {
    const [x, y] = [valueOf(a, name), valueOf(b, name)]
    if (x == null || y == null) return Number(x == null) - Number(y == null)
    return (
      sign *
      (typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y)))
    )
  })
}
