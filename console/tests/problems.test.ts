import { describe, expect, it } from 'vitest'

const sources = import.meta.glob<string>('../src/**/*.vue', {
  query: '?raw',
  import: 'default',
  eager: true,
})
// What helps a person type, and the bars above every page, may stay away without a word.
const MAY_BE_SILENT = ['ExpressionBox.vue', 'AddColumn.vue', 'CompanyFinder.vue', 'PageHead.vue']

describe('whatever a page asks in vain', () => {
  it('is said on it', () => {
    const silent: string[] = []
    let asked = 0
    for (const [name, source] of Object.entries(sources)) {
      if (MAY_BE_SILENT.some((quiet) => name.endsWith(quiet))) continue
      for (const [, taken] of source.matchAll(/const \{([^}]*)\} = use(?:Question|Attempt)\(/g)) {
        asked += 1
        const problem = /\bproblem(?::\s*(\w+))?/.exec(taken!)
        const called = problem?.[1] ?? 'problem'
        const used = source.match(new RegExp(`\\b${called}\\b(?!:)`, 'g'))?.length ?? 0
        if (!problem || used < 2) silent.push(`${name}: ${taken!.trim()}`)
      }
    }
    expect(silent).toEqual([])
    expect(asked).toBeGreaterThan(40)
  })
})
