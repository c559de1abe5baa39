/** What every chart shares: its inks, and taking it away as an image or a table. */

import type { ECharts } from 'echarts/core'

/** A token of the theme, as it stands where the chart is drawn. */
export function ink(place: HTMLElement, name: string): string {
  return getComputedStyle(place).getPropertyValue(name).trim()
}

const LINE = 15 // px between labels

/** Labels of lines that end near one another are moved apart, the order kept. */
export function spreadLabels(chart: ECharts, lines: { name: string; last: number | null }[]): void {
  const placed = lines
    .map((line, n) => ({ n, last: line.last }))
    .filter((line) => line.last !== null)
    .map(({ n, last }) => ({
      n,
      y: chart.convertToPixel({ yAxisIndex: 0 }, last!) as unknown as number,
    }))
    .sort((a, b) => a.y - b.y)
  const offsets = new Map<number, number>()
  let above = -Infinity
  for (const { n, y } of placed) {
    const at = Math.max(y, above + LINE)
    offsets.set(n, at - y)
    above = at
  }
  chart.setOption({
    series: lines.map(({ name }, n) => ({ name, endLabel: { offset: [0, offsets.get(n) ?? 0] } })),
  })
}

function keep(href: string, name: string): void {
  const link = document.createElement('a')
  link.href = href
  link.download = name
  link.click()
}

/** The chart as a PNG, twice as large as it is drawn. */
export function asImage(chart: ECharts, paper: string, name: string): void {
  const image = new Image()
  image.onload = () => {
    const canvas = document.createElement('canvas')
    canvas.width = image.width * 2
    canvas.height = image.height * 2
    const context = canvas.getContext('2d')!
    context.fillStyle = paper
    context.fillRect(0, 0, canvas.width, canvas.height)
    context.drawImage(image, 0, 0, canvas.width, canvas.height)
    keep(canvas.toDataURL('image/png'), `${name}.png`)
  }
  image.src = chart.getDataURL({ type: 'svg' })
}

/**
 * Rows as separated text, what needs it in quotes; a text that a spreadsheet would reckon with
 * gets a `'` before it.
 */
export function separated(rows: (string | number)[][]): string {
  const cell = (c: string | number): string => {
    const text = typeof c === 'string' && /^[=+\-@\t\r]/.test(c) ? `'${c}` : String(c)
    return /[",\n\r]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text
  }
  return rows.map((row) => row.map(cell).join(',')).join('\n')
}

/** The figures of a chart as a CSV file. */
export function asTable(rows: (string | number)[][], name: string): void {
  keep(URL.createObjectURL(new Blob([separated(rows)], { type: 'text/csv' })), `${name}.csv`)
}
