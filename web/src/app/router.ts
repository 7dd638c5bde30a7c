import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./HomePage.vue') },
    {
      path: '/scenes/:sceneId/:desk(dress|frame|splice|turnover)',
      component: () => import('./Shell.vue'),
      props: true,
    },
    { path: '/productions/:library', component: () => import('./ProductionPage.vue'), props: true },
    { path: '/scenes/:sceneId', redirect: (to) => `${to.path}/dress` },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})
