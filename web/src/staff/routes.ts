import type { LocationQuery, RouteLocationNormalizedLoaded, RouteRecordRaw } from 'vue-router'

/** Where views stood before: links to them still lead there. */
export const moved: RouteRecordRaw[] = [
  {
    path: '/handoffs/:reference?',
    redirect: (to) => ({ path: to.path.replace('/handoffs', '/conversations') }),
  },
  { path: '/settings/templates', redirect: '/library/templates' },
]

/** Names that the tabs beside a text had in addresses before. */
const movedTabs: Record<string, string> = { said: 'remarks', properties: 'about' }

/** The query of an address from before tabs were called so; nothing where it needs no change. */
export function movedQuery(query: LocationQuery): LocationQuery | undefined {
  const { leaf, ...rest } = query
  if (typeof leaf !== 'string') return undefined
  return leaf === 'quality' ? { ...rest, part: leaf } : { ...rest, margin: movedTabs[leaf] ?? leaf }
}

/** Every view of the staff interface, by its address below /staff. */
export const routes: RouteRecordRaw[] = [
  { path: '/', redirect: '/today' },
  {
    path: '/sign-in',
    component: () => import('./accounts/SignIn.vue'),
    meta: { open: true, title: 'Sign in' },
  },
  {
    path: '/forgotten',
    component: () => import('./accounts/Password.vue'),
    meta: { open: true, title: 'Set a new password' },
  },
  {
    path: '/new-password/:link',
    component: () => import('./accounts/Password.vue'),
    props: true,
    meta: { open: true, title: 'Set a new password' },
  },
  { path: '/today', component: () => import('./desk/Today.vue'), meta: { title: 'Today' } },
  { path: '/library', component: () => import('./library/Library.vue'), meta: { title: 'Library' } },
  {
    path: '/library/bring-in',
    component: () => import('./exchange/BringIn.vue'),
    meta: { title: 'Bring articles in' },
  },
  {
    path: '/library/templates',
    component: () => import('./library/Templates.vue'),
    meta: { title: 'Templates' },
  },
  {
    path: '/library/:reference/changes',
    component: () => import('./library/Changes.vue'),
    props: true,
    meta: { title: 'Changes' },
  },
  {
    path: '/library/:reference',
    component: () => import('./writing/Article.vue'),
    props: true,
    meta: { title: 'Article' },
  },
  { path: '/review', component: () => import('./review/Review.vue'), meta: { title: 'Review' } },
  {
    path: '/review/:reference',
    component: () => import('./review/ReviewArticle.vue'),
    props: true,
    meta: { title: 'Review' },
  },
  {
    path: '/review/batches/:id',
    component: () => import('./review/Batch.vue'),
    props: true,
    meta: { title: 'Batch' },
  },
  { path: '/news', component: () => import('./notify/News.vue'), meta: { title: 'News' } },
  { path: '/trail', component: () => import('./desk/Trail.vue'), meta: { title: 'The trail' } },
  { path: '/flows', component: () => import('./flows/Flows.vue'), meta: { title: 'Flows' } },
  {
    path: '/flows/:slug/changes',
    component: () => import('./flows/FlowChanges.vue'),
    props: true,
    meta: { title: 'Changes' },
  },
  {
    path: '/flows/:slug',
    component: () => import('./flows/Flow.vue'),
    props: true,
    meta: { title: 'Flow' },
  },
  {
    path: '/conversations/:reference?',
    component: () => import('./conversations/Conversations.vue'),
    props: true,
    meta: { title: 'Conversations', follows: true },
  },
  { path: '/outcomes', component: () => import('./outcomes/Outcomes.vue'), meta: { title: 'Outcomes' } },
  {
    path: '/outcomes/question/:id',
    component: () => import('./outcomes/Question.vue'),
    props: true,
    meta: { title: 'Question' },
  },
  { path: '/settings', component: () => import('./accounts/Settings.vue'), meta: { title: 'Settings' } },
  {
    path: '/settings/paths',
    component: () => import('./review/Paths.vue'),
    meta: { title: 'Review paths' },
  },
  { path: '/settings/hours', component: () => import('./hours/Hours.vue'), meta: { title: 'Opening hours' } },
  {
    path: '/settings/groups',
    component: () => import('./customers/Groups.vue'),
    meta: { title: 'Groups of customers' },
  },
  {
    path: '/settings/customers',
    component: () => import('./accounts/Customers.vue'),
    meta: { title: 'Customers' },
  },
  { path: '/me', component: () => import('./accounts/Me.vue'), meta: { title: 'Your sign-in' } },
  {
    path: '/settings/people/:id/hand-over',
    component: () => import('./desk/HandOver.vue'),
    props: true,
    meta: { title: 'Hand over' },
  },
  {
    path: '/settings/sites/:site/search',
    component: () => import('./search/SiteSearch.vue'),
    props: true,
    meta: { title: 'Search' },
  },
  {
    path: '/settings/sites/:site/form',
    component: () => import('./requests/RequestForm.vue'),
    props: true,
    meta: { title: 'Request form' },
  },
  {
    path: '/settings/problems',
    component: () => import('./review/Problems.vue'),
    meta: { title: 'Known problems' },
  },
  {
    path: '/settings/sites',
    component: () => import('./sites/Sites.vue'),
    meta: { title: 'Help centres' },
  },
  { path: '/:rest(.*)', component: () => import('./shared/Missing.vue'), meta: { title: 'Not found' } },
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
