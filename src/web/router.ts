import { createRouter, createWebHistory } from 'vue-router';
import Arrivals from './screens/Arrivals.vue';

/** Every view has an address that restores it; what stands in the query is the view's own. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'arrivals', component: Arrivals, meta: { title: 'Arrivals' } },
    { path: '/runs/:id', name: 'run', component: () => import('./screens/RunSheet.vue'), meta: { title: 'Run sheet' } },
    { path: '/attempts/:id', name: 'bench', component: () => import('./screens/Bench.vue'), meta: { title: 'Bench' } },
    {
      path: '/attempts/:id/hand-over',
      name: 'hand-over',
      component: () => import('./screens/HandOver.vue'),
      meta: { title: 'Hand over' },
    },
    {
      path: '/contrast',
      name: 'contrast',
      component: () => import('./screens/Contrast.vue'),
      meta: { title: 'Contrast' },
    },
    {
      path: '/dossiers',
      name: 'dossiers',
      component: () => import('./screens/Dossiers.vue'),
      meta: { title: 'Dossiers' },
    },
    {
      path: '/dossiers/:id',
      name: 'dossier',
      component: () => import('./screens/Dossier.vue'),
      meta: { title: 'Dossier' },
    },
    {
      path: '/dossiers/:id/history',
      name: 'family-history',
      component: () => import('./screens/FamilyHistory.vue'),
      meta: { title: 'History' },
    },
    { path: '/causes/:code', name: 'cause', component: () => import('./screens/Cause.vue'), meta: { title: 'Cause' } },
    { path: '/find', name: 'find', component: () => import('./screens/Find.vue'), meta: { title: 'Find' } },
    { path: '/drills', name: 'drills', component: () => import('./screens/Drills.vue'), meta: { title: 'Drills' } },
    { path: '/drills/:id', name: 'drill', component: () => import('./screens/Drill.vue'), meta: { title: 'Drill' } },
    { path: '/proofs/:id', name: 'proof', component: () => import('./screens/Proof.vue'), meta: { title: 'Proof' } },
    {
      path: '/mendings/:id',
      name: 'mending',
      component: () => import('./screens/Mending.vue'),
      meta: { title: 'Provoke, mend, prove' },
    },
    { path: '/again/:id', name: 'again', component: () => import('./screens/Again.vue'), meta: { title: 'Again' } },
    {
      path: '/deliveries/:id',
      name: 'delivery',
      component: () => import('./screens/Delivery.vue'),
      meta: { title: 'Delivery' },
    },
    { path: '/next', name: 'next', component: () => import('./screens/Next.vue'), meta: { title: 'Next' } },
    { path: '/trends', name: 'trends', component: () => import('./screens/Trends.vue'), meta: { title: 'Trends' } },
    {
      path: '/tests/:id',
      name: 'test',
      component: () => import('./screens/TestPage.vue'),
      meta: { title: 'Test' },
    },
    {
      path: '/rules',
      name: 'rules',
      component: () => import('./screens/Rules.vue'),
      meta: { title: 'Standing rules' },
    },
    { path: '/places', name: 'places', component: () => import('./screens/Places.vue'), meta: { title: 'Places' } },
    {
      path: '/:rest(.*)',
      name: 'nowhere',
      component: () => import('./screens/Nowhere.vue'),
      meta: { title: 'Not here' },
    },
  ],
});

router.afterEach((to) => {
  document.title = `${String(to.meta.title)} · Iskel`;
});
