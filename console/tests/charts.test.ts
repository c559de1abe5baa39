// @vitest-environment happy-dom
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createApp, defineComponent, h, nextTick, ref, useTemplateRef } from 'vue'
import { LineChart } from 'echarts/charts'
import { GridComponent } from 'echarts/components'
import { getInstanceByDom, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'

import { useChart } from '../src/figures/chart'
import { asNamed, tip } from '../src/figures/tips'
import { vuetify } from '../src/theme'

use([LineChart, GridComponent, SVGRenderer])

const MARKS = ['<b>', '</b>', '<img src=x>', '&amp;', '"', "'", '{a}', '<br>', ' ']
const name = fc
  .array(fc.oneof(fc.constantFrom(...MARKS), fc.string({ unit: 'grapheme-ascii' })))
  .map((parts) => `x${parts.join('')}`)

describe('what stands under the pointer in a chart', () => {
  it('is the names as they are: no mark of theirs is one of the page', () => {
    fc.assert(
      fc.property(name, fc.array(fc.tuple(name, name), { maxLength: 20 }), (head, lines) => {
        const place = document.createElement('div')
        place.innerHTML = tip({ head, lines })
        const made = [...place.querySelectorAll('*')].map((e) => e.tagName)
        const shown = Math.min(lines.length, 12)
        const breaks = shown + (lines.length > 12 ? 1 : 0)
        expect(made.filter((t) => t === 'BR')).toHaveLength(breaks)
        expect(made.filter((t) => t === 'B')).toHaveLength(shown)
        expect(made).toHaveLength(breaks + shown)
        const said = lines.slice(0, 12).map(([of, value]) => `${of} ${value}`)
        const all = [head, ...said, ...(lines.length > 12 ? ['…'] : [])]
        expect(place.textContent).toBe(all.join(''))
      }),
    )
  })

  it('leaves out what is not there', () => {
    expect(tip({ head: '', lines: [['only a name', '']] })).toBe('only a name')
    expect(tip({ head: 'day', lines: [['', '1.5']] })).toBe('day<br><b>1.5</b>')
  })

  it('is no template: braces in a name are braces', () => {
    expect(asNamed('{b} of {a}')()).toBe('{b} of {a}')
  })
})

describe('a chart', () => {
  it('is drawn when what it shows changes and when the theme does, and ends with its page', async () => {
    const shown = ref<number[] | null>(null)
    const drawn: unknown[] = []
    const Page = defineComponent(() => {
      const place = useTemplateRef<HTMLElement>('place')
      useChart(
        place,
        () => shown.value,
        () => {
          drawn.push(vuetify.theme.global.name.value)
          const axes = { xAxis: { type: 'category' }, yAxis: {} }
          return shown.value && { ...axes, series: [{ type: 'line', data: shown.value }] }
        },
      )
      return () => h('div', { ref: 'place', style: 'width: 300px; height: 200px' })
    })
    const root = document.body.appendChild(document.createElement('div'))
    const app = createApp(Page).use(vuetify)
    app.mount(root)
    const place = root.firstElementChild as HTMLElement
    const chart = () => getInstanceByDom(place)
    expect(chart()).toBeUndefined() // there is nothing to draw
    shown.value = [1, 2]
    await nextTick()
    expect((chart()!.getOption() as { series: { data: number[] }[] }).series[0]!.data).toEqual([
      1, 2,
    ])
    const before = drawn.length
    const theme = vuetify.theme.global.name.value
    vuetify.theme.change(theme === 'dark' ? 'light' : 'dark')
    await nextTick()
    await nextTick()
    expect(drawn.length).toBe(before + 1)
    expect(drawn.at(-1)).not.toBe(theme)
    vuetify.theme.change(theme)
    app.unmount()
    expect(chart()).toBeUndefined()
  })
})
