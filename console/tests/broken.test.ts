// @vitest-environment happy-dom
import { expect, it } from 'vitest'
import { createApp, defineComponent, h, nextTick } from 'vue'
import { createMemoryHistory, createRouter, RouterView } from 'vue-router'

import { useBroken } from '../src/asking/broken'
import ProblemNote from '../src/asking/ProblemNote.vue'

it('says that a page broke, or could not be fetched, until another one is opened', async () => {
  const broken = defineComponent(() => () => {
    throw new TypeError('there is no such thing')
  })
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/', component: defineComponent(() => () => h('p', 'all is well')) },
      { path: '/broken', component: broken },
      { path: '/gone', component: () => Promise.reject(new TypeError('failed to fetch it')) },
    ],
  })
  const Frame = defineComponent(() => {
    const problem = useBroken()
    return () => [h(ProblemNote, { problem: problem.value }), h(RouterView)]
  })
  const app = createApp(Frame).use(router)
  app.config.errorHandler = () => undefined
  const root = document.body.appendChild(document.createElement('div'))
  app.mount(root)
  for (const [path, said] of [
    ['/', 'all is well'],
    ['/broken', 'The page met an error of its own. Load the page again (TypeError: there is no'],
    ['/', 'all is well'],
    ['/gone', 'The page could not be opened. Load the page again (TypeError: failed to fetch it)'],
  ] as const) {
    await router.push(path).catch(() => undefined)
    await nextTick()
    expect(root.textContent).toContain(said)
    expect(!!root.querySelector('[role=alert] button')).toBe(path !== '/')
  }
  app.unmount()
})
