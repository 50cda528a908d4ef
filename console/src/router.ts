import { createRouter, createWebHistory, type RouteRecordRaw } from 'vue-router'
import { me, whoAmI } from './me'

declare module 'vue-router' {
  interface RouteMeta { open?: boolean; title?: string; place?: string }
}

const home: RouteRecordRaw[] = [
  { path: '', component: () => import('./pages/overview/OverviewPage.vue'), meta: { title: 'Overview', place: 'overview' } },
  { path: 'survey/drawing', component: () => import('./pages/survey/DrawingPage.vue'), meta: { title: 'Network drawing', place: 'survey' } },
  { path: 'survey/addresses', component: () => import('./pages/survey/AddressesPage.vue'), meta: { title: 'Address plan', place: 'survey' } },
  { path: 'survey/import', component: () => import('./pages/survey/ImportPage.vue'), meta: { title: 'Import a file', place: 'survey' } },
  { path: 'survey/walk', component: () => import('./pages/survey/WalkPage.vue'), meta: { title: 'Walk', place: 'walk' } },
  { path: 'rooms/:id/card', component: () => import('./pages/survey/RoomCardPage.vue'), meta: { title: 'Room card', place: 'survey' } },
  { path: 'survey', component: () => import('./pages/records/RecordsPage.vue'), props: { kinds: ['room', 'outlet', 'line', 'segment', 'dhcp-server', 'link', 'reading', 'wish', 'restriction'], title: 'Survey', links: [['survey/walk', 'Walk'], ['survey/drawing', 'Network drawing'], ['survey/addresses', 'Address plan'], ['survey/import', 'Import and export'], ['devices/observed', 'Seen on the network']] }, meta: { title: 'Survey', place: 'survey' } },
  { path: 'devices/observed', component: () => import('./pages/observed/ObservedPage.vue'), meta: { title: 'Seen on the network', place: 'devices' } },
  { path: 'devices/shown/:id?', component: () => import('./pages/observed/ShownPage.vue'), meta: { title: 'What each device sees', place: 'devices' } },
  { path: 'devices', component: () => import('./pages/records/RecordsPage.vue'), props: { kinds: ['device', 'interface', 'software', 'source', 'folder', 'decoding', 'chain-link', 'opening', 'account', 'secret'], title: 'Devices', links: [['devices/observed', 'Seen on the network'], ['devices/shown', 'What each device sees']] }, meta: { title: 'Devices', place: 'devices' } },
  { path: 'forecast', component: () => import('./pages/forecast/ForecastPage.vue'), meta: { title: 'What plays', place: 'forecast' } },
  { path: 'load', component: () => import('./pages/load/LoadPage.vue'), meta: { title: 'Load of the network', place: 'paths' } },
  { path: 'suppose', component: () => import('./pages/suppose/SupposePage.vue'), meta: { title: 'Suppose', place: 'paths' } },
  { path: 'folders/:id', component: () => import('./pages/folder/FolderPage.vue'), meta: { title: 'What is in a folder', place: 'forecast' } },
  { path: 'paths/ways', component: () => import('./pages/paths/WaysPage.vue'), meta: { title: 'Ways for a device', place: 'paths' } },
  { path: 'paths/ends', component: () => import('./pages/paths/EndsPage.vue'), meta: { title: 'Both ends', place: 'paths' } },
  { path: 'paths/openings', component: () => import('./pages/paths/OpeningsPage.vue'), meta: { title: 'Openings', place: 'paths' } },
  { path: 'paths/:id/card', component: () => import('./pages/paths/CardPage.vue'), meta: { title: 'What to enter', place: 'paths' } },
  { path: 'paths', component: () => import('./pages/paths/PathsPage.vue'), meta: { title: 'Paths', place: 'paths' } },
  { path: 'proving', component: () => import('./pages/proving/ProvingPage.vue'), meta: { title: 'Proving', place: 'proving' } },
  { path: 'proving/round', component: () => import('./pages/proving/RoundPage.vue'), meta: { title: 'Round', place: 'proving' } },
  { path: 'proving/:test', component: () => import('./pages/proving/TestPage.vue'), meta: { title: 'Test', place: 'proving' } },
  { path: 'issues', component: () => import('./pages/issues/IssuesPage.vue'), meta: { title: 'Issues', place: 'issues' } },
  { path: 'issues/:id/questions', component: () => import('./pages/issues/QuestionsPage.vue'), meta: { title: 'Questions to the caller', place: 'issues' } },
  { path: 'issues/:id', component: () => import('./pages/issues/IssuePage.vue'), meta: { title: 'Issue', place: 'issues' } },
  { path: 'handover', component: () => import('./pages/handover/HandoversPage.vue'), meta: { title: 'Handover', place: 'handover' } },
  { path: 'handover/:id', component: () => import('./pages/handover/HandoverPage.vue'), meta: { title: 'Handover', place: 'handover' } },
  { path: 'journal', component: () => import('./pages/journal/JournalPage.vue'), meta: { title: 'Journal', place: 'journal' } },
  { path: 'visits', component: () => import('./pages/visits/VisitsPage.vue'), meta: { title: 'Visits', place: 'visits' } },
  { path: 'records', component: () => import('./pages/records/KindsPage.vue'), meta: { title: 'All records', place: 'records' } },
  { path: 'more', component: () => import('./pages/home/MorePage.vue'), meta: { title: 'More', place: 'more' } },
  { path: 'records/:kind/new', component: () => import('./pages/records/RecordPage.vue'), meta: { title: 'New record', place: 'records' } },
  { path: 'records/:kind', component: () => import('./pages/records/RecordsPage.vue'), meta: { title: 'Records', place: 'records' } },
  { path: 'records/:kind/:id', component: () => import('./pages/records/RecordPage.vue'), meta: { title: 'Record', place: 'records' } },
]

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/login', component: () => import('./pages/login/LoginPage.vue'), meta: { open: true, title: 'Log in' } },
    { path: '/measure/:code', component: () => import('./pages/measure/MeasurePage.vue'), meta: { open: true, title: 'Measure here' } },
    { path: '/join/:code', component: () => import('./pages/measure/JoinPage.vue'), meta: { open: true, title: 'Log in on this phone' } },
    { path: '/', component: () => import('./pages/today/TodayPage.vue'), meta: { title: 'Today' } },
    { path: '/households', component: () => import('./pages/households/HouseholdsPage.vue'), meta: { title: 'Households' } },
    { path: '/people', component: () => import('./pages/people/PeoplePage.vue'), meta: { title: 'People' } },
    { path: '/recipes', component: () => import('./pages/recipes/RecipesPage.vue'), meta: { title: 'Recipes' } },
    { path: '/knowledge', component: () => import('./pages/knowledge/KnowledgePage.vue'), meta: { title: 'Models and versions' } },
    { path: '/faults', component: () => import('./pages/faults/FaultsPage.vue'), meta: { title: 'Faults in all homes' } },
    { path: '/me', component: () => import('./pages/me/MePage.vue'), meta: { title: 'My account' } },
    { path: '/households/:code(H-[0-9]+)', component: () => import('./pages/home/HomeFrame.vue'), children: home },
    { path: '/:rest(.*)*', component: () => import('./pages/home/MissingPage.vue'), meta: { open: true, title: 'Not found' } },
  ],
  scrollBehavior: (to, _from, saved) => saved ?? (to.hash ? { el: to.hash } : { top: 0 }),
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  try {
    if (!(await whoAmI())) return { path: '/login', query: { to: to.fullPath } }
    return me.session?.secondFactor !== 'needed' || to.path === '/me' || { path: '/me' }
  } catch {
    return true // the page itself says that nothing answers
  }
})

router.afterEach((to) => {
  const code = to.params.code ? `${String(to.params.code)} · ` : ''
  document.title = `${code}${to.meta.title ?? 'Kaiku'} · Kaiku`
})
