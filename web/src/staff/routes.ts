import type { RouteLocationNormalizedLoaded, RouteRecordRaw } from 'vue-router'

/** Every view of the staff interface, by its address below /staff. */
export const routes: RouteRecordRaw[] = [
  { path: '/', redirect: '/today' },
  {
    path: '/sign-in',
    component: () => import('./views/SignIn.vue'),
    meta: { open: true, title: 'Sign in' },
  },
  {
    path: '/forgotten',
    component: () => import('./views/Password.vue'),
    meta: { open: true, title: 'Set a new password' },
  },
  {
    path: '/new-password/:link',
    component: () => import('./views/Password.vue'),
    props: true,
    meta: { open: true, title: 'Set a new password' },
  },
  { path: '/today', component: () => import('./views/Today.vue'), meta: { title: 'Today' } },
  { path: '/library', component: () => import('./views/Library.vue'), meta: { title: 'Library' } },
  {
    path: '/library/bring-in',
    component: () => import('./views/BringIn.vue'),
    meta: { title: 'Bring articles in' },
  },
  {
    path: '/library/:reference/changes',
    component: () => import('./views/Changes.vue'),
    props: true,
    meta: { title: 'Changes' },
  },
  {
    path: '/library/:reference',
    component: () => import('./views/Article.vue'),
    props: true,
    meta: { title: 'Article' },
  },
  { path: '/review', component: () => import('./views/Review.vue'), meta: { title: 'Review' } },
  {
    path: '/review/:reference',
    component: () => import('./views/ReviewArticle.vue'),
    props: true,
    meta: { title: 'Review' },
  },
  {
    path: '/review/batches/:id',
    component: () => import('./views/Batch.vue'),
    props: true,
    meta: { title: 'Batch' },
  },
  { path: '/news', component: () => import('./views/News.vue'), meta: { title: 'News' } },
  { path: '/trail', component: () => import('./views/Trail.vue'), meta: { title: 'The trail' } },
  { path: '/flows', component: () => import('./views/Flows.vue'), meta: { title: 'Flows' } },
  {
    path: '/handoffs/:reference?',
    component: () => import('./views/Handoffs.vue'),
    props: true,
    meta: { title: 'Handoffs', follows: true },
  },
  { path: '/outcomes', component: () => import('./views/Outcomes.vue'), meta: { title: 'Outcomes' } },
  {
    path: '/outcomes/question/:id',
    component: () => import('./views/Question.vue'),
    props: true,
    meta: { title: 'Question' },
  },
  { path: '/settings', component: () => import('./views/Settings.vue'), meta: { title: 'Settings' } },
  {
    path: '/settings/paths',
    component: () => import('./views/Paths.vue'),
    meta: { title: 'Review paths' },
  },
  {
    path: '/settings/groups',
    component: () => import('./views/Groups.vue'),
    meta: { title: 'Groups of customers' },
  },
  {
    path: '/settings/customers',
    component: () => import('./views/Customers.vue'),
    meta: { title: 'Customers' },
  },
  { path: '/me', component: () => import('./views/Me.vue'), meta: { title: 'Your sign-in' } },
  {
    path: '/settings/people/:id/hand-over',
    component: () => import('./views/HandOver.vue'),
    props: true,
    meta: { title: 'Hand over' },
  },
  {
    path: '/settings/templates',
    component: () => import('./views/Templates.vue'),
    meta: { title: 'Templates' },
  },
  {
    path: '/settings/sites/:site/search',
    component: () => import('./views/SiteSearch.vue'),
    props: true,
    meta: { title: 'Search' },
  },
  {
    path: '/settings/sites/:site/form',
    component: () => import('./views/RequestForm.vue'),
    props: true,
    meta: { title: 'Request form' },
  },
  {
    path: '/settings/problems',
    component: () => import('./views/Problems.vue'),
    meta: { title: 'Known problems' },
  },
  {
    path: '/settings/sites',
    component: () => import('./views/Sites.vue'),
    meta: { title: 'Help centres' },
  },
  { path: '/:rest(.*)', component: () => import('./views/Missing.vue'), meta: { title: 'Not found' } },
]

/**
 * What tells one view from another: its path, so that going to another object of the same kind draws
 * a new view and nothing of the one before stays. A view that follows its address by itself says so
 * (`meta.follows`), and is kept.
 */
export function viewKey(route: Pick<RouteLocationNormalizedLoaded, 'path' | 'matched' | 'meta'>): string {
  const record = route.matched.at(-1)
  return route.meta.follows && record ? record.path : route.path
}
