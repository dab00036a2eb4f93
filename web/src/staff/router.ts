import { createRouter, createWebHistory } from 'vue-router'
import { moved, movedQuery, routes } from './routes'
import { loadSession, who } from './session'

export const router = createRouter({ history: createWebHistory('/staff/'), routes: [...moved, ...routes] })

router.beforeEach(async (to) => {
  const query = movedQuery(to.query)
  if (query) return { path: to.path, query, hash: to.hash, replace: true }
  if (who.value === undefined) await loadSession()
  if (!who.value && !to.meta.open) return { path: '/sign-in', query: { back: to.fullPath } }
  return true
})

/** Fetches the views that people go to most, once the first is drawn. */
let fetched = false
function fetchAhead() {
  if (fetched) return
  fetched = true
  setTimeout(() => {
    void import('./library/Library.vue')
    void import('./writing/Article.vue')
  }, 400)
}

router.afterEach((to) => {
  if (!to.meta.open) fetchAhead()
  document.title = `${String(to.meta.title)} · Hermeneus`
})
