const STEPS: Record<string, [down: number, across: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
}

/** The cell `row:column` that an arrow key leads to, or null for every other key. */
export function step(from: string, key: string): string | null {
  const by = STEPS[key]
  if (!by) return null
  const [row, column] = from.split(':').map(Number)
  return `${row! + by[0]}:${column! + by[1]}`
}
