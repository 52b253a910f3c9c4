import { createRouter, createWebHistory } from 'vue-router'
import { loadSession, session } from './session'

export const router = createRouter({
  history: createWebHistory('/console/'),
  routes: [
    { path: '/', name: 'home', component: () => import('./pages/HomePage.vue') },
    {
      path: '/sign-in',
      name: 'sign-in',
      component: () => import('./pages/SignIn.vue'),
      meta: { bare: true, open: true },
    },
    {
      path: '/set-up',
      name: 'set-up',
      component: () => import('./pages/SetUpPage.vue'),
      meta: { bare: true, open: true },
    },
    {
      path: '/password',
      name: 'password',
      component: () => import('./pages/PasswordPage.vue'),
      meta: { bare: true, open: true },
    },
    {
      path: '/invitation',
      name: 'invitation',
      component: () => import('./pages/InvitationPage.vue'),
      meta: { bare: true, open: true },
    },
    { path: '/sites', name: 'sites', component: () => import('./pages/SitesPage.vue') },
    { path: '/account', name: 'account', component: () => import('./pages/AccountPage.vue') },
    { path: '/:site/today', name: 'today', component: () => import('./pages/TodayPage.vue'), props: true },
    { path: '/:site/tree', name: 'tree', component: () => import('./pages/TreePage.vue'), props: true },
    { path: '/:site/bin', name: 'bin', component: () => import('./pages/BinPage.vue'), props: true },
    { path: '/:site/imports', name: 'imports', component: () => import('./pages/ImportsPage.vue'), props: true },
    { path: '/:site/imports/:id', name: 'import', component: () => import('./pages/ImportPage.vue'), props: true },
    { path: '/:site/assets', name: 'assets', component: () => import('./pages/AssetLibrary.vue'), props: true },
    { path: '/:site/entries/:type?', name: 'entries', component: () => import('./pages/EntryList.vue'), props: true },
    { path: '/:site/new/:type', name: 'new', component: () => import('./pages/EntryEditor.vue'), props: true },
    { path: '/:site/entry/:id', name: 'entry', component: () => import('./pages/EntryEditor.vue'), props: true },
    {
      path: '/:site/counterparts',
      name: 'counterparts',
      component: () => import('./pages/RegionsPage.vue'),
      props: true,
    },
    { path: '/:site/entry/:id/source', name: 'source', component: () => import('./pages/SourcePage.vue'), props: true },
    {
      path: '/:site/entry/:id/compare',
      name: 'compare',
      component: () => import('./pages/EntryCompare.vue'),
      props: true,
    },
    {
      path: '/:site/translations',
      name: 'translations',
      component: () => import('./pages/BoardPage.vue'),
      props: true,
    },
    {
      path: '/:site/translations/glossary',
      name: 'glossary',
      component: () => import('./pages/GlossaryPage.vue'),
      props: true,
    },
    {
      path: '/:site/translations/orders',
      name: 'orders',
      component: () => import('./pages/OrdersPage.vue'),
      props: true,
    },
    { path: '/:site/archive', name: 'archive', component: () => import('./pages/ArchivePage.vue'), props: true },
    { path: '/:site/copy', name: 'copy', component: () => import('./pages/CopyPage.vue'), props: true },
    {
      path: '/:site/connectors',
      name: 'connectors',
      component: () => import('./pages/ConnectorsPage.vue'),
      props: true,
    },
    {
      path: '/:site/translate/:locale/:entry?',
      name: 'translate',
      component: () => import('./pages/TranslatePage.vue'),
      props: true,
    },
    { path: '/:site/model', name: 'model', component: () => import('./pages/ModelMap.vue'), props: true },
    {
      path: '/:site/model/:kind(type|block)/:type',
      name: 'model-type',
      component: () => import('./pages/ModelType.vue'),
      props: true,
    },
    { path: '/:site/locales', name: 'locales', component: () => import('./pages/LocalesPage.vue'), props: true },
    {
      path: '/:site/front-ends',
      name: 'front-ends',
      component: () => import('./pages/FrontEndsPage.vue'),
      props: true,
    },
    { path: '/:site/members', name: 'members', component: () => import('./pages/MembersPage.vue'), props: true },
    { path: '/:site/keys', name: 'keys', component: () => import('./pages/KeysPage.vue'), props: true },
    { path: '/:site/webhooks', name: 'webhooks', component: () => import('./pages/WebhooksPage.vue'), props: true },
    {
      path: '/:site/webhooks/:webhook',
      name: 'webhook',
      component: () => import('./pages/WebhookPage.vue'),
      props: true,
    },
    {
      path: '/:site/automations',
      name: 'automations',
      component: () => import('./pages/AutomationsPage.vue'),
      props: true,
    },
    {
      path: '/:site/new-automation',
      name: 'automation-new',
      component: () => import('./pages/AutomationPage.vue'),
      props: true,
    },
    {
      path: '/:site/automations/:automation',
      name: 'automation',
      component: () => import('./pages/AutomationPage.vue'),
      props: true,
    },
    { path: '/:site/query', name: 'query', component: () => import('./pages/QueryPage.vue'), props: true },
    { path: '/:site/api', name: 'api', component: () => import('./pages/ApiPage.vue'), props: true },
    { path: '/:path(.*)*', name: 'nothing', component: () => import('./pages/NothingHere.vue') },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta['open']) return true
  const who = session.value ?? (await loadSession())
  return who ? true : { name: 'sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } }
})
