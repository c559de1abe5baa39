/** What every chart shares: its inks, and taking it away as an image or a table. */

import type { ECharts } from 'echarts/core'

/** A token of the theme, as it stands where the chart is drawn. */
export function ink(place: HTMLElement, name: string): string {
  return getComputedStyle(place).getPropertyValue(name).trim()
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

/** Rows as separated text, what needs it in quotes. */
export function separated(rows: (string | number)[][]): string {
  const cell = (c: string | number): string => (/[",\n]/.test(String(c)) ? `"${String(c).replaceAll('"', '""')}"` : String(c))
  return rows.map((row) => row.map(cell).join(',')).join('\n')
}

/** The figures of a chart as a CSV file. */
export function asTable(rows: (string | number)[][], name: string): void {
  keep(URL.createObjectURL(new Blob([separated(rows)], { type: 'text/csv' })), `${name}.csv`)
}
